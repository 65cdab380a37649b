// Names on a drawing too small to read them: each is written as large as can be read
// where it then touches no symbol, line or other name; elsewhere its number stands alone.
(() => {
  "use strict";
  const size = 11; // pixels of a name
  const touch = (a, b) => a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;
  const room = (x1, y1, x2, y2, by) => ({ x: Math.min(x1, x2) - by, y: Math.min(y1, y2) - by,
    w: Math.abs(x2 - x1) + 2 * by, h: Math.abs(y2 - y1) + 2 * by });

  function read(svg) {
    const runs = [];
    for (const path of svg.querySelectorAll(".line .run")) {
      const d = path.getAttribute("d").replace(/A\S+ \S+ 0 0 \d /g, "L"); // a hop counts as straight
      const n = d.match(/-?[\d.]+/g).map(Number);
      for (let i = 2; i + 1 < n.length; i += 2) runs.push(room(n[i - 2], n[i - 1], n[i], n[i + 1], 2));
    }
    const parts = [...svg.querySelectorAll(".part")].map((part) => {
      const symbol = part.querySelector(".symbol"), b = symbol.getBBox(), at = symbol.transform.baseVal.consolidate();
      const m = at ? at.matrix : { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 };
      const turn = (x, y) => [m.a * x + m.c * y + m.e, m.b * x + m.d * y + m.f];
      const name = part.querySelector(".name");
      return { name, box: room(...turn(b.x, b.y), ...turn(b.x + b.width, b.y + b.height), 1),
        text: name && name.getBBox() };
    });
    return { runs, parts };
  }

  // What was fitted last: the names themselves, the lines and the scale.
  const fitted = new WeakMap();
  function anew(svg, px) {
    const names = [...svg.querySelectorAll(".name")], was = fitted.get(svg);
    const key = px + names.map((n) => n.textContent).join() +
      [...svg.querySelectorAll(".line .run")].map((r) => r.getAttribute("d")).join();
    if (was && was.key === key && was.names.every((n, i) => n === names[i])) return false;
    fitted.set(svg, { key, names });
    return true;
  }

  function fit(svg) {
    const px = parseFloat(svg.style.getPropertyValue("--px")) || 1;
    const small = svg.hasAttribute("data-small"), by = (size * px) / 12;
    if (!anew(svg, px + (small ? "small" : ""))) return;
    for (const name of svg.querySelectorAll(".name")) {
      name.classList.remove("fits");
      name.removeAttribute("transform");
      name.style.removeProperty("--px");
    }
    if (!small) return;
    const { runs, parts } = read(svg), taken = [], sheet = svg.viewBox.baseVal;
    for (const { name, box, text } of parts) {
      if (!name) continue;
      const side = name.dataset.side;
      const x = side === "right" ? text.x : side === "left" ? text.x + text.width : text.x + text.width / 2;
      const y = side === "above" ? text.y + text.height : side === "below" ? text.y : text.y + text.height / 2;
      const at = { x: x + (text.x - x) * by, y: y + (text.y - y) * by, w: text.width * by, h: text.height * by };
      const inner = side === "in" && { x: box.x + 2, y: box.y + 2, w: box.w - 4, h: box.h - 4 };
      if (inner) {
        if (at.x < inner.x || at.x + at.w > inner.x + inner.w) continue;
        if (at.y < inner.y || at.y + at.h > inner.y + inner.h) continue;
      } else if (at.x < sheet.x || at.x + at.w > sheet.x + sheet.width || at.y < sheet.y) continue;
      else if (runs.some((r) => touch(at, r)) || taken.some((t) => touch(at, t)) ||
        parts.some((p) => p.box !== box && (touch(at, p.box)))) continue;
      taken.push(at);
      name.setAttribute("transform", `translate(${x} ${y}) scale(${by}) translate(${-x} ${-y})`);
      name.style.setProperty("--px", px / by);
      name.classList.add("fits");
    }
  }
  document.addEventListener("drawing:measured", (e) => fit(e.target));
})();
