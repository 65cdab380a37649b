// A jug that is tapped where its level stands, and anodes to choose from.
(() => {
  "use strict";
  const ns = "http://www.w3.org/2000/svg";
  const el = (tag, attributes, ...children) => {
    const e = document.createElementNS(ns, tag);
    Object.entries(attributes || {}).forEach(([k, v]) => e.setAttribute(k, v));
    e.append(...children);
    return e;
  };

  // The jug holds litres; what is left in it is told back as a share.
  function jug(litres, unit, left, tapped) {
    const top = 34, bottom = 196, x0 = 22, x1 = 118;
    const at = (share) => bottom - share * (bottom - top);
    const svg = el("svg", { viewBox: "0 0 140 206", class: "jug-of", role: "slider", tabindex: "0",
      "aria-label": "Level in the jug", "aria-valuemin": "0", "aria-valuemax": "100" });
    const fluid = el("path", { class: "fluid" }), level = el("path", { class: "level" });
    svg.append(fluid, el("path", { class: "side",
      d: "M46 8h26v14h22q24 6 24 34v134q0 8-8 8H30q-8 0-8-8V56q0-22 24-34z", "fill-opacity": "0" }));
    svg.append(el("path", { class: "side", d: "M104 46v46q0 8-8 8h-4V54q0-10 12-8z", "fill-opacity": "0" }));
    const whole = litres / unit.factor, marks = 10;
    for (let i = 1; i < marks; i += 1) {
      const y = at(i / marks), long = i % 5 === 0;
      svg.append(el("path", { class: "mark", d: `M${x0} ${y}h${long ? 20 : 11}` }));
      if (long) {
        const t = el("text", { x: x0 + 24, y: y + 5 });
        t.textContent = `${Number((whole * i / marks).toFixed(2))} ${unit.word}`;
        svg.append(t);
      }
    }
    svg.append(level);
    function show(share) {
      left = Math.min(1, Math.max(0, share));
      fluid.setAttribute("d", `M${x0} ${at(left)}H${x1}V188q0 8-8 8H30q-8 0-8-8z`);
      level.setAttribute("d", `M${x0 - 6} ${at(left)}H${x1 + 6}`);
      svg.setAttribute("aria-valuenow", Math.round(left * 100));
      svg.setAttribute("aria-valuetext", `${Number((whole * left).toFixed(2))} ${unit.word} left`);
    }
    const step = 0.05;
    svg.addEventListener("click", (e) => {
      const box = svg.getBoundingClientRect();
      const y = (e.clientY - box.top) / box.height * 206;
      show(Math.round((bottom - y) / (bottom - top) / step) * step);
      tapped(left);
    });
    svg.addEventListener("keydown", (e) => {
      const by = { ArrowUp: step, ArrowRight: step, ArrowDown: -step, ArrowLeft: -step, PageUp: 0.25,
        PageDown: -0.25 }[e.key];
      if (!by) return;
      e.preventDefault();
      e.stopPropagation();
      show(left + by);
      tapped(left);
    });
    show(left);
    svg.show = show;
    return svg;
  }

  // Rods as they look at some shares used: the volume that is gone, not the diameter, goes by the share.
  function rod(used) {
    const fresh = 18, core = 4, d = Math.sqrt((1 - used) * (fresh * fresh - core * core) + core * core);
    const svg = el("svg", { viewBox: "0 0 36 60", "aria-hidden": "true" });
    svg.append(el("path", { class: "wire", d: "M10 2h16v8H10z" }), el("rect", { class: "wire", x: 18 - core / 2, y: 8,
      width: core, height: 50 }), el("rect", { class: "rod", x: 18 - d / 2, y: 12, width: d, height: 42,
        rx: Math.min(4, d / 2) }));
    return svg;
  }
  document.drawn = { jug, rod };
})();
