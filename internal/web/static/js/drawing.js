// Zoom, pan and keys for the schematics: buttons beside each drawing, + - 0
// while it has the focus, n and p for the next and previous part, drag to pan.
(() => {
  "use strict";
  const steps = [1, 1.25, 1.6, 2, 2.6, 3.4];

  function zoom(box, step) {
    const svg = box.querySelector("svg.schematic");
    if (!svg) return;
    const at = Math.max(0, Math.min(steps.length - 1, step));
    box.dataset.step = at;
    const middle = (box.scrollLeft + box.clientWidth / 2) / box.scrollWidth;
    svg.style.width = at ? steps[at] * 100 + "%" : "";
    box.scrollLeft = middle * box.scrollWidth - box.clientWidth / 2;
  }

  function button(text, name, act) {
    const b = document.createElement("button");
    b.type = "button";
    b.textContent = text;
    b.setAttribute("aria-label", name);
    b.addEventListener("click", act);
    return b;
  }

  function equip(box) {
    if (box.dataset.equipped) return;
    box.dataset.equipped = "1";
    const bar = document.createElement("div");
    bar.className = "zoom";
    const by = (d) => () => zoom(box, d ? (+box.dataset.step || 0) + d : 0);
    bar.append(button("+", "Zoom in", by(1)), button("\u2212", "Zoom out", by(-1)), button("fit", "Fit the drawing", by(0)));
    box.before(bar);

    let from = null;
    box.addEventListener("pointerdown", (e) => {
      if (e.target.closest("a") || e.button) return;
      from = { x: e.clientX, y: e.clientY, left: box.scrollLeft, top: box.scrollTop };
    });
    box.addEventListener("pointermove", (e) => {
      if (!from) return;
      box.scrollLeft = from.left - (e.clientX - from.x);
      box.scrollTop = from.top - (e.clientY - from.y);
    });
    for (const end of ["pointerup", "pointerleave", "pointercancel"]) box.addEventListener(end, () => { from = null; });
    box.addEventListener("keydown", (e) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const step = +box.dataset.step || 0;
      if (e.key === "+" || e.key === "=") zoom(box, step + 1);
      else if (e.key === "-") zoom(box, step - 1);
      else if (e.key === "0") zoom(box, 0);
      else if (e.key === "n" || e.key === "p") next(box, e.key === "n" ? 1 : -1);
      else return;
      e.preventDefault();
    });
  }

  function next(box, by) {
    const parts = [...box.querySelectorAll("a.part")];
    if (!parts.length) return;
    const at = parts.indexOf(document.activeElement);
    parts[(at + by + parts.length) % parts.length].focus();
  }

  const all = () => document.querySelectorAll(".drawing:not(.fixed)").forEach(equip);
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:afterSwap", all);
})();
