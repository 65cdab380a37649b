// A question: steps moved by buttons and keys, answers chosen by number, a photograph pointed at.
(() => {
  "use strict";
  const sit = document.querySelector("[data-drill]");
  if (!sit) return;
  const typing = (e) => e.target.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");

  // order: buttons in the place of choosing numbers
  const list = sit.querySelector("[data-order]");
  const renumber = () => [...list.children].forEach((li, i) => { li.querySelector("select").value = String(i + 1); });
  const move = (li, by) => {
    const to = by < 0 ? li.previousElementSibling : li.nextElementSibling;
    if (!to) return;
    if (by < 0) to.before(li); else to.after(li);
    renumber();
    li.querySelector(by < 0 ? ".up" : ".down").focus();
  };
  if (list) {
    list.classList.add("moved");
    for (const li of list.children) {
      const moves = document.createElement("span");
      moves.className = "moves";
      const said = li.querySelector(".said").textContent;
      for (const [name, sign, by] of [["up", "↑", -1], ["down", "↓", 1]]) {
        const b = document.createElement("button");
        b.type = "button";
        b.className = `btn btn-sm turn ${name}`;
        b.textContent = sign;
        b.setAttribute("aria-label", `${name}: ${said}`);
        b.addEventListener("click", () => move(li, by));
        moves.append(b);
      }
      li.append(moves);
    }
  }

  // a photograph: where it is pointed at
  const photo = sit.querySelector(".photo-of.points");
  const pinAt = (x, y) => {
    let pin = photo.querySelector(".pin");
    if (!pin) {
      pin = document.createElement("span");
      pin.className = "pin";
      photo.append(pin);
    }
    pin.style.left = `${100 * x}%`;
    pin.style.top = `${100 * y}%`;
  };
  if (photo) {
    photo.addEventListener("click", (e) => {
      const box = photo.querySelector("img").getBoundingClientRect();
      const x = (e.clientX - box.left) / box.width, y = (e.clientY - box.top) / box.height;
      sit.querySelector("#x").value = x.toFixed(3);
      sit.querySelector("#y").value = y.toFixed(3);
      pinAt(x, y);
    });
  }

  // a part on the drawing: its looks are picked out, its handle is gone to
  sit.addEventListener("click", (e) => {
    const part = e.target.closest(".drawing-of [data-part], .drawing-of [data-id]");
    if (!part) return;
    const id = part.dataset.part || part.dataset.id;
    let first = null;
    for (const b of sit.querySelectorAll(".look [data-part]")) {
      const on = b.dataset.part === id;
      b.classList.toggle("aimed", on);
      if (on) {
        b.closest("details").open = true;
        first = first || b;
      }
    }
    first = first || sit.querySelector(`[name="h-${CSS.escape(id)}"]:checked`);
    if (first) first.focus();
  });

  // a place on the layout
  sit.addEventListener("click", (e) => {
    const spot = e.target.closest(".plan-of [data-no]");
    if (!spot) return;
    for (const c of sit.querySelectorAll(".numbers .choice")) {
      if (c.lastElementChild.textContent.trim() === spot.dataset.no) c.querySelector("input").click();
    }
  });

  document.addEventListener("keydown", (e) => {
    if (e.altKey || e.ctrlKey || e.metaKey || typing(e) || e.target.closest(".drawing")) return;
    const step = e.target.closest("[data-order] > li");
    if (step && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
      move(step, e.key === "ArrowUp" ? -1 : 1);
      e.preventDefault();
      return;
    }
    if (/^[1-9]$/.test(e.key)) {
      const c = sit.querySelectorAll(".choices:not(.numbers) input[name=pick]")[Number(e.key) - 1];
      if (c) { c.checked = true; c.focus(); }
    } else if (e.key === "h") {
      sit.querySelector("[data-hint]")?.click();
    } else if (e.key === "n") {
      sit.querySelector("[data-next]")?.click();
    } else if (e.key === "Enter" && !e.target.closest("a, button, summary")) {
      sit.querySelector("[data-answer]")?.click();
      e.preventDefault();
    }
  });
})();
