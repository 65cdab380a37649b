// Things that a hand puts somewhere: places dragged in the layout, symbols
// moved in the schematic, the mark on a photograph.
(() => {
  "use strict";

  // Layout: drag a numbered place of an editable drawing; the form beside it
  // carries the new place in metres to the server.
  let drag = null, carry = null;
  const send = (part, front, left, height) => {
    const form = document.getElementById("place-form");
    Object.entries({ part, front, left, height }).forEach(([name, value]) => { form.elements[name].value = value; });
    form.requestSubmit();
  };
  const point = (svg, e) => new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());

  document.addEventListener("pointerdown", (e) => {
    const tray = e.target.closest && e.target.closest("[data-tray]");
    if (tray && !e.button && document.getElementById("place-form")) {
      carry = { tray, x: e.clientX, y: e.clientY, id: e.pointerId };
    }
    const place = e.target.closest && e.target.closest(".layout[data-scale-x] .place");
    if (!place || e.button || !document.getElementById("place-form")) return;
    const svg = place.closest("svg");
    drag = { place, svg, from: point(svg, e), id: e.pointerId };
    e.preventDefault();
  });
  document.addEventListener("pointermove", (e) => {
    if (!drag || e.pointerId !== drag.id) return;
    const at = point(drag.svg, e);
    drag.place.setAttribute("transform", `translate(${at.x - drag.from.x} ${at.y - drag.from.y})`);
  });
  document.addEventListener("pointerup", (e) => {
    if (!drag || e.pointerId !== drag.id) return;
    const { place, svg, from } = drag;
    drag = null;
    const at = point(svg, e), dx = at.x - from.x, dy = at.y - from.y;
    if (Math.hypot(dx, dy) < 4) { place.removeAttribute("transform"); return; }
    const num = (name) => parseFloat(place.dataset[name]);
    send(place.dataset.part, (num("front") + dx / svg.dataset.scaleX).toFixed(3),
      svg.dataset.view === "plan" ? (num("left") + dy / svg.dataset.scaleY).toFixed(3) : "",
      svg.dataset.view === "side" ? (num("height") - dy / svg.dataset.scaleY).toFixed(3) : "");
  });
  // What lies in the tray is dropped into the plan or the side view.
  document.addEventListener("pointerup", (e) => {
    if (!carry || e.pointerId !== carry.id) return;
    const { tray, x, y } = carry;
    carry = null;
    const under = document.elementFromPoint(e.clientX, e.clientY);
    const svg = under && under.closest("svg.layout[data-scale-x]");
    if (!svg || Math.hypot(e.clientX - x, e.clientY - y) < 4) return;
    const at = point(svg, e), across = (at.y - svg.dataset.y0) / svg.dataset.scaleY;
    send(tray.dataset.tray, ((at.x - svg.dataset.x0) / svg.dataset.scaleX).toFixed(3),
      svg.dataset.view === "plan" ? across.toFixed(3) : "", svg.dataset.view === "side" ? (-across).toFixed(3) : "");
  });
  document.addEventListener("dragstart", (e) => { if (e.target.closest("[data-tray]")) e.preventDefault(); });

  // Schematic: the buttons of the inspector, and Alt with arrow keys.
  function nudge(form, dx, dy) {
    form.elements.dx.value = dx;
    form.elements.dy.value = dy;
    form.requestSubmit();
  }
  document.addEventListener("click", (e) => {
    const b = e.target.closest && e.target.closest("[data-dx]");
    if (b) { e.preventDefault(); nudge(b.form, b.dataset.dx, b.dataset.dy); }
  });
  document.addEventListener("keydown", (e) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    const form = document.querySelector("[data-nudge]");
    if (!e.altKey || !by || !form || e.repeat) return;
    e.preventDefault();
    nudge(form, by[0], by[1]);
  });

  // Photograph: a click puts the mark of the chosen part, arrow keys move a mark that
  // has the focus.
  const sendMark = (pic, part, x, y, done = () => {}) => document.dispatchEvent(new CustomEvent("keep:send",
    { detail: { path: pic.dataset.mark, values: { part, x, y }, what: "the mark on the photograph", done } }));
  function put(mark, x, y) {
    mark.setAttribute("cx", x * 100);
    mark.setAttribute("cy", y * 100);
  }
  document.addEventListener("click", (e) => {
    const pic = e.target.closest && e.target.closest("[data-mark]");
    if (!pic || e.target.closest(".pin")) return;
    const choice = pic.dataset.for && document.getElementById(pic.dataset.for);
    const part = choice ? choice.value : pic.dataset.part, box = pic.getBoundingClientRect();
    const x = (e.clientX - box.left) / box.width, y = (e.clientY - box.top) / box.height;
    sendMark(pic, part, x, y, () => {
      const mark = pic.querySelector(choice ? `.pin[data-part="${CSS.escape(part)}"] ellipse` : "ellipse");
      if (mark) put(mark, x, y);
      else location.reload(); // the server draws the first mark
    });
  });
  let later = 0;
  document.addEventListener("keydown", (e) => {
    const pin = e.target.closest && e.target.closest(".pin");
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (!pin || !by) return;
    e.preventDefault();
    const mark = pin.querySelector("ellipse"), within = (v) => Math.min(1, Math.max(0, v));
    const x = within(mark.getAttribute("cx") / 100 + by[0] / 100);
    const y = within(mark.getAttribute("cy") / 100 + by[1] / 100);
    put(mark, x, y);
    clearTimeout(later);
    later = setTimeout(() => sendMark(pin.closest("[data-mark]"), pin.dataset.part, x, y), 300);
  });
})();
