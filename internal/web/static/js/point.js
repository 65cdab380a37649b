// Pointing on the schematic: a symbol is dragged to where it should stand, and two ports
// are joined by pointing at one and then the other.
(() => {
  "use strict";
  const step = 10; // units of the drawing's grid
  const drawing = (el) => el.closest && el.closest("#drawing");

  // Dragging. A click that ended a drag chooses nothing.
  let drag = null, dragged = false;
  const at = (svg, e) => new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
  document.addEventListener("pointerdown", (e) => {
    const part = e.target.closest && e.target.closest("a.part"), form = document.getElementById("nudge-form");
    dragged = false;
    if (!part || !form || !drawing(part) || e.button || joining()) return;
    drag = { part, svg: part.ownerSVGElement, id: e.pointerId, x: e.clientX, y: e.clientY };
    drag.from = at(drag.svg, e);
  });
  document.addEventListener("pointermove", (e) => {
    if (!drag || e.pointerId !== drag.id) return;
    if (!dragged && Math.hypot(e.clientX - drag.x, e.clientY - drag.y) < 6) return;
    dragged = true;
    const to = at(drag.svg, e);
    drag.part.setAttribute("transform", `translate(${to.x - drag.from.x} ${to.y - drag.from.y})`);
  });
  document.addEventListener("pointerup", (e) => {
    if (!drag || e.pointerId !== drag.id) return;
    const { part, svg, from } = drag, to = at(svg, e), form = document.getElementById("nudge-form");
    drag = null;
    if (!dragged) return;
    part.removeAttribute("transform");
    const dx = Math.round((to.x - from.x) / step), dy = Math.round((to.y - from.y) / step);
    if (!dx && !dy) return;
    form.elements.part.value = part.dataset.part;
    form.elements.dx.value = dx;
    form.elements.dy.value = dy;
    form.requestSubmit();
  });
  document.addEventListener("dragstart", (e) => { if (drawing(e.target)) e.preventDefault(); });

  // Joining.
  let first = null; // the port or line that was pointed at first
  const joining = () => document.documentElement.hasAttribute("data-joining");
  const tell = (words) => {
    const told = document.getElementById("join-told");
    if (told) told.textContent = words;
  };
  function join(on) {
    first = null;
    closeMenu();
    for (const el of document.querySelectorAll(".first-end")) el.classList.remove("first-end");
    document.documentElement.toggleAttribute("data-joining", on);
    const button = document.getElementById("join-by");
    if (button) button.setAttribute("aria-pressed", on);
    tell(on ? "Point at the part or line where it begins. Esc ends." : "");
  }
  function closeMenu() {
    const menu = document.getElementById("port-menu");
    if (menu) menu.remove();
  }
  function take(ref, el) {
    closeMenu();
    if (!first) {
      first = ref;
      el.classList.add("first-end");
      tell("Now point at where it leads. Esc ends.");
      return;
    }
    const form = document.getElementById("join-form");
    form.elements["port-from"].value = first;
    form.elements["port-to"].value = ref;
    join(false);
    form.requestSubmit();
  }
  // A part with one open port is that port; of several one is asked for.
  function ask(part) {
    const ports = part.dataset.ports.split(" ").filter(Boolean), open = ports.filter((p) => p.startsWith("+"));
    const ref = (port) => `${part.dataset.part}.${port.replace("+", "")}`;
    if (open.length === 1) {
      take(ref(open[0]), part);
      return;
    }
    closeMenu();
    const menu = document.createElement("div"), box = part.getBoundingClientRect();
    menu.id = "port-menu";
    menu.setAttribute("role", "group");
    menu.setAttribute("aria-label", "Which port");
    for (const port of open.length ? open : ports) {
      const b = document.createElement("button");
      b.type = "button";
      b.textContent = port.replace("+", "") + (port.startsWith("+") ? "" : " (by a tee)");
      b.addEventListener("click", () => take(ref(port), part));
      menu.append(b);
    }
    document.getElementById("main").append(menu);
    menu.style.left = `${Math.min(box.right, innerWidth - menu.offsetWidth - 8)}px`;
    menu.style.top = `${Math.min(box.top, innerHeight - menu.offsetHeight - 8)}px`;
    if (menu.firstChild) menu.firstChild.focus();
    else tell("It has no ports.");
  }
  document.addEventListener("click", (e) => {
    if (e.target.closest("#join-by")) join(!joining());
    const el = e.target.closest("#drawing a.part, #drawing a.line");
    if (!el || !joining() && !dragged) return;
    e.preventDefault();
    e.stopImmediatePropagation();
    if (dragged) dragged = false;
    else if (el.dataset.line) take("line:" + el.dataset.line, el);
    else ask(el);
  }, true);
  document.addEventListener("keydown", (e) => { if (e.key === "Escape" && joining()) join(false); });
})();
