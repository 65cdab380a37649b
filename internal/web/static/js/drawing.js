// Zoom, pan and keys for the drawings: buttons beside each, + - 0 while it has
// the focus, n and p for the next and previous part, drag to pan.
(() => {
  "use strict";
  const steps = [1, 1.25, 1.6, 2, 2.6, 3.4];
  const zoomed = new WeakMap(); // box -> step

  function zoom(box, step) {
    const svg = box.querySelector("svg.schematic");
    if (!svg) return;
    const at = Math.max(0, Math.min(steps.length - 1, step));
    zoomed.set(box, at);
    const middle = (box.scrollLeft + box.clientWidth / 2) / box.scrollWidth;
    const centre = (box.scrollTop + box.clientHeight / 2) / box.scrollHeight;
    svg.style.width = at ? steps[at] * 100 + "%" : "";
    svg.style.height = at ? steps[at] * 100 + "%" : "";
    cap(svg, at);
    keep(svg, box, at);
    box.scrollLeft = middle * box.scrollWidth - box.clientWidth / 2;
    box.scrollTop = centre * box.scrollHeight - box.clientHeight / 2;
    measure(svg);
  }

  // A small system is not drawn giant, however large the screen.
  const largest = 1.5; // pixels to a unit of the drawing, unless it is zoomed
  function cap(svg, at) {
    svg.style.maxWidth = at ? "none" : svg.dataset.width * largest + "px";
  }

  // A large one is not drawn so small that nothing is seen: it is wider than its box, which scrolls.
  const tiny = 0.15, seen = 0.3; // pixels to a unit of the drawing
  function keep(svg, box, at) {
    const wide = svg.dataset.width * tiny > box.clientWidth;
    svg.style.minWidth = wide ? svg.dataset.width * seen * steps[at] + "px" : "";
  }

  // How many units of a drawing make a pixel, so that numbers are as large on
  // every screen; names are drawn only where they can be read.
  const readable = 9.5;
  const sheets = new WeakMap(); // drawing to the sheet that it was measured with
  function measure(svg) {
    sheets.set(svg, svg.getAttribute("viewBox"));
    const box = svg.closest(".drawing");
    if (svg.dataset.width && !zoomed.get(box)) {
      cap(svg, 0);
      keep(svg, box, 0);
    }
    const m = svg.getScreenCTM();
    if (!m || !m.a) return;
    svg.style.setProperty("--px", (1 / m.a).toFixed(3));
    svg.toggleAttribute("data-small", 12 * m.a < readable);
    svg.dispatchEvent(new Event("drawing:measured", { bubbles: true }));
  }
  const measureAll = () => document.querySelectorAll(".drawing svg").forEach(measure);
  addEventListener("resize", measureAll);
  addEventListener("load", () => document.fonts.ready.then(measureAll)); // names are measured in their own type
  // An answer changes the scale only where it changes the sheet.
  document.addEventListener("htmx:afterSwap", () => {
    for (const svg of document.querySelectorAll(".drawing svg")) {
      if (sheets.get(svg) !== svg.getAttribute("viewBox")) measure(svg);
      else svg.dispatchEvent(new Event("drawing:measured", { bubbles: true }));
    }
  });

  function zoomBy(box, by) {
    zoom(box, by ? (zoomed.get(box) || 0) + by : 0);
  }

  document.addEventListener("click", (e) => {
    const button = e.target.closest("[data-zoom]");
    if (button) zoomBy(button.closest(".drawn").querySelector(".drawing"), +button.dataset.zoom);
  });

  function next(box, by) {
    const parts = [...box.querySelectorAll("a.part")];
    if (!parts.length) return;
    const at = parts.indexOf(document.activeElement);
    parts[(at + by + parts.length) % parts.length].focus();
  }

  document.addEventListener("keydown", (e) => {
    const box = e.target.closest && e.target.closest(".drawing:not(.fixed)");
    if (!box || e.ctrlKey || e.metaKey || e.altKey) return;
    const act = {
      "+": () => zoomBy(box, 1), "=": () => zoomBy(box, 1), "-": () => zoomBy(box, -1), "0": () => zoomBy(box, 0),
      n: () => next(box, 1), p: () => next(box, -1),
    }[e.key];
    if (!act) return;
    act();
    e.preventDefault();
  });

  let pan = null;
  document.addEventListener("pointerdown", (e) => {
    const box = e.target.closest(".drawing:not(.fixed)");
    if (!box || e.target.closest("a") || e.button) return;
    pan = { box, x: e.clientX, y: e.clientY, left: box.scrollLeft, top: box.scrollTop };
  });
  document.addEventListener("pointermove", (e) => {
    if (!pan) return;
    pan.box.scrollLeft = pan.left - (e.clientX - pan.x);
    pan.box.scrollTop = pan.top - (e.clientY - pan.y);
  });
  for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, () => { pan = null; });

  // A drawing that was made anew is zoomed as the one before.
  document.addEventListener("htmx:afterSwap", () => {
    for (const box of document.querySelectorAll(".drawing")) if (zoomed.get(box)) zoom(box, zoomed.get(box));
  });
})();
