// How a part of the page takes an answer: it is changed in place, so that
// focus, scroll and what is open stay; and what a hand has typed is never
// written over before it was sent and answered.
(() => {
  "use strict";
  const field = "input, textarea, select";
  const valueOf = (el) => (el.type === "checkbox" || el.type === "radio" ? el.checked : el.value);
  const formOf = (el) => {
    if (el.form) return el.form.getAttribute("action");
    const row = el.closest("tr[hx-post]"); // a cell of the grid
    return row ? row.getAttribute("hx-post") : "";
  };

  // Fields that a hand has changed since they were last answered, each with the
  // form it was typed into, for the same field of another part is another field,
  // whether it was left, and whether it was refused.
  const typed = new WeakMap();
  document.addEventListener("input", (e) => {
    if (!e.target.matches || !e.target.matches(field)) return;
    typed.set(e.target, { form: formOf(e.target), left: false, refused: false });
  });
  document.addEventListener("change", (e) => { if (typed.has(e.target)) typed.get(e.target).left = true; }, true);

  function held(el) {
    if (!typed.has(el)) return false;
    if (typed.get(el).form === formOf(el)) return true;
    typed.delete(el);
    return false;
  }

  // An inspector sends one field at a time that was typed, left and not yet
  // refused: a half-typed field waits, and a wrong one holds up no other. What
  // could not be saved is sent again by keep.js.
  const ready = (el) => held(el) && typed.get(el).left && !typed.get(el).refused && !el.dataset.unsaved;
  const unsent = (form) => [...form.querySelectorAll(field)].filter(ready);
  document.addEventListener("htmx:configRequest", (e) => {
    const form = e.detail.elt;
    if (!form.matches(".inspect") || e.detail.triggeringEvent && e.detail.triggeringEvent.type === "submit") return;
    const [next] = unsent(form);
    if (!next) e.preventDefault(); // an earlier request has carried it
    for (const name of [...e.detail.formData.keys()]) {
      if (name.startsWith("f.") && (!next || name !== next.name)) e.detail.formData.delete(name);
    }
  });

  // What a request carries is no longer the hand's once it is answered, unless
  // more was typed meanwhile. What was refused stays as it was typed. The fields
  // go with the request, for whoever has to send it again.
  document.addEventListener("htmx:beforeSend", (e) => {
    const form = e.detail.elt, { formData, triggeringEvent } = e.detail.requestConfig;
    if (e.detail.xhr.fields || !form.matches("form, .grid tr")) return;
    const cell = form.matches("tr") && triggeringEvent.target;
    const fields = cell ? [cell] : unsent(form).filter((el) => formData.has(el.name));
    e.detail.xhr.fields = fields.map((el) => [el, valueOf(el)]);
  });
  document.addEventListener("htmx:beforeSwap", (e) => {
    if (!e.detail.shouldSwap) return;
    for (const [el, value] of e.detail.xhr.fields || []) {
      if (valueOf(el) !== value || !held(el)) continue;
      if (e.detail.xhr.status === 422 && el.closest(".inspect")) {
        typed.get(el).refused = true;
        el.setAttribute("aria-invalid", "true");
      } else typed.delete(el);
    }
  });

  // What was left while another field was on its way goes next.
  document.addEventListener("htmx:afterRequest", (e) => {
    const form = e.detail.elt;
    if (e.detail.xhr.status && e.detail.xhr.status < 500 && form.matches(".inspect") && unsent(form).length) {
      htmx.trigger(form, "change");
    }
  });

  // A field that is left by Enter is saved once: the change is on its way.
  document.addEventListener("submit", (e) => {
    const form = e.target.closest(".inspect"), at = document.activeElement;
    if (!form || !at.matches("input") || !form.contains(at)) return;
    e.preventDefault();
    e.stopPropagation();
  }, true);

  Object.assign(Idiomorph.defaults.callbacks, {
    beforeAttributeUpdated(name, el) {
      if (name === "open" && el.matches("details") || name === "data-unsaved") return false;
      if (name === "value" || name === "checked" || name === "aria-invalid") return !held(el);
      if (name === "selected") return !held(el.closest("select"));
      // The zoom of a drawing is the reader's, and so is the pane that is shown.
      return !((name === "style" || name === "data-small") && el.matches(".drawing svg") ||
        name === "hidden" && el.matches("[data-pane]"));
    },
  });

  // Where focus vanishes with its element it goes to the head of the inspector,
  // or else of the page: never to the body, where letters are commands.
  let lost = null;
  document.addEventListener("htmx:beforeSwap", (e) => {
    const at = document.activeElement;
    if (e.detail.shouldSwap && at !== document.body && e.detail.target.contains(at)) lost = at;
  });
  document.addEventListener("htmx:afterSwap", () => {
    if (!lost) return;
    const home = document.querySelector("[data-home]") || document.getElementById("main");
    if (!lost.isConnected && document.activeElement === document.body) home.focus({ preventScroll: true });
    lost = null;
  });

  // A panel that closes when its work is done.
  document.addEventListener("htmx:beforeSwap", (e) => {
    const { requestConfig: ask, xhr } = e.detail;
    const panel = ask && ask.verb === "post" && xhr.status === 200 && ask.elt.closest("details[data-closes]");
    if (!panel) return;
    panel.open = false;
    panel.dispatchEvent(new Event("patch:forget", { bubbles: true })); // it begins anew
  });

  // What came of a change is told over the page, and goes when it was read.
  document.addEventListener("click", (e) => {
    const close = e.target.closest("[data-dismiss]");
    if (close) close.closest(close.dataset.dismiss).remove();
  });
  document.addEventListener("keydown", (e) => {
    if (e.key !== "Escape" || document.querySelector("dialog[open]")) return;
    if (e.target.closest(".grid")) typed.delete(e.target); // the grid has taken the cell back
    const open = document.querySelector("details.adds[open]");
    const notice = document.querySelector(".notice:not([role=alert])");
    if (open) {
      open.open = false;
      open.querySelector("summary").focus();
    } else if (notice) notice.remove();
  });

  // Who leaves before all is saved is asked.
  const waits = (el) => held(el) && !typed.get(el).refused;
  addEventListener("beforeunload", (e) => {
    if ([...document.querySelectorAll(".inspect")].some((form) => [...form.elements].some(waits))) e.preventDefault();
  });
})();
