// Writing in a guide: a sentence or a figure is chosen to be changed, blocks are
// dragged, and what follows the model is put into a text. Every form says which
// state it was made from.
(() => {
  "use strict";
  const guide = () => document.getElementById("guide");
  const writing = () => document.querySelector(".guide .blocktools");

  // The state that a change is made from is the newest that this page has seen.
  const from = () => (document.getElementById("guide-said") || { dataset: {} }).dataset.from || "";
  document.addEventListener("htmx:configRequest", (e) => {
    if (e.detail.verb === "post" && e.detail.elt.closest("#guide")) e.detail.parameters.from = from();
  });
  document.addEventListener("htmx:afterSettle", () => {
    document.querySelectorAll("input[data-from]").forEach((el) => { el.value = from(); });
    ready();
  });

  // Sentences and figures can be reached by keys where somebody writes.
  function ready() {
    if (!guide() || !writing()) return;
    guide().querySelectorAll(".block .said:not([tabindex]), .figures .live:not([tabindex])").forEach((el) => {
      el.tabIndex = 0;
      el.setAttribute("role", "button");
      el.setAttribute("aria-description", el.matches(".live") ? "Set this figure by hand" : "Reword this sentence");
    });
  }

  function say(el) {
    const block = el.closest(".block"), id = block.id.slice(2);
    const into = document.getElementById(`say-${id}`);
    if (!into) return;
    const q = new URLSearchParams(location.search);
    q.set("block", id);
    const live = el.closest(".figures .live");
    if (live) q.set("figure", live.dataset.ref);
    else q.set("key", el.closest(".said").dataset.key);
    const address = `${location.pathname}/sentence?${q}`;
    htmx.ajax("GET", address, { target: into, swap: "innerHTML" }).then(() => {
      const field = into.querySelector("textarea, input:not([type=hidden])");
      if (!field) return;
      into.scrollIntoView({ block: "nearest" });
      field.focus();
    });
  }
  const chosen = (e) => writing() && e.target.closest && e.target.closest("#guide .block .said, #guide .figures .live");
  document.addEventListener("click", (e) => {
    const el = chosen(e);
    if (el && !getSelection().toString()) say(el);
  });
  document.addEventListener("keydown", (e) => {
    const el = chosen(e);
    if (el && (e.key === "Enter" || e.key === " ")) {
      e.preventDefault();
      say(el);
    }
  });
  document.addEventListener("click", (e) => {
    const close = e.target.closest("[data-closes-say]");
    if (close) close.closest(".saying").replaceChildren();
  });

  // What follows the model is put into a text where its cursor stands.
  document.addEventListener("change", (e) => {
    const list = e.target.closest("[data-puts]");
    if (!list || !list.value) return;
    insert(document.getElementById(list.dataset.puts), `[[${list.value}]]`);
    list.value = "";
  });
  document.addEventListener("click", (e) => {
    const b = e.target.closest("[data-insert]");
    if (b) insert(document.getElementById(b.dataset.into), b.dataset.insert);
  });
  function insert(field, text) {
    field.setRangeText(text, field.selectionStart, field.selectionEnd, "end");
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus();
  }

  // Where a form's block went, focus goes.
  document.addEventListener("htmx:beforeRequest", (e) => {
    const form = e.detail.elt, by = e.detail.requestConfig.triggeringEvent;
    if (!form.closest(".blocktools") || !by || !by.submitter) return;
    e.detail.xhr.home = [form.closest(".block").id, by.submitter.value];
  });
  document.addEventListener("htmx:afterOnLoad", (e) => {
    const home = e.detail.xhr.home;
    if (!home || e.detail.xhr.status !== 200) return;
    requestAnimationFrame(() => {
      const block = document.getElementById(home[0]);
      const other = { hide: "show", show: "hide" }[home[1]] || home[1];
      const at = block && block.querySelector(`.blocktools button[value="${other}"], .blocktools summary`);
      if (at && (document.activeElement === document.body || !document.activeElement.isConnected)) at.focus();
      if (block) block.scrollIntoView({ block: "nearest" });
    });
  });

  // A block is dragged by its handle, before another one.
  let held = null;
  document.addEventListener("pointerdown", (e) => {
    const grip = e.target.closest("[data-drag]");
    if (!grip) return;
    held = grip.closest(".block");
    held.classList.add("dragged");
    grip.setPointerCapture(e.pointerId);
    e.preventDefault();
  });
  const blocks = () => [...guide().querySelectorAll(".block")];
  const before = (y) => blocks().find((b) => {
    const box = b.getBoundingClientRect();
    return y < box.top + box.height / 2;
  });
  document.addEventListener("pointermove", (e) => {
    if (!held) return;
    blocks().forEach((b) => b.classList.remove("drop"));
    const to = before(e.clientY);
    if (to) to.classList.add("drop");
    if (e.clientY < 60) scrollBy(0, -18);
    if (e.clientY > innerHeight - 60) scrollBy(0, 18);
  });
  document.addEventListener("pointerup", (e) => {
    if (!held) return;
    const moved = held, to = before(e.clientY);
    held = null;
    blocks().forEach((b) => b.classList.remove("drop", "dragged"));
    if (to === moved || to === moved.nextElementSibling) return;
    const form = moved.querySelector(".blocktools form");
    htmx.ajax("POST", form.getAttribute("hx-post"), {
      source: form, swap: "none",
      values: { do: "before", block: moved.id.slice(2), before: to ? to.id.slice(2) : "" },
    });
  });

  document.addEventListener("DOMContentLoaded", ready);
})();
