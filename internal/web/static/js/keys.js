// Keys for every page: / search, ? this list, u undo, r redo, a add, g grid;
// and what is open stays open when a part of the page changes.
(() => {
  "use strict";
  const list = [
    ["/", "search"], ["?", "this list"], ["u", "undo"], ["r", "redo"], ["a", "add to the system"],
    ["n p", "next and previous part, on a drawing"], ["Enter", "turn the handle, choose the part"], ["+ − 0", "zoom a drawing"],
    ["Alt + arrows", "move the chosen symbol"], ["arrows Enter", "move in the grid"], ["Esc", "close; take back a cell"],
  ];
  const typing = (el) => el && (el.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName));

  function help() {
    let box = document.getElementById("keys");
    if (!box) {
      box = document.createElement("dialog");
      box.id = "keys";
      box.setAttribute("aria-label", "Keys");
      const dl = document.createElement("dl");
      for (const [key, words] of list) {
        const dt = document.createElement("dt"), dd = document.createElement("dd");
        dt.textContent = key;
        dd.textContent = words;
        dl.append(dt, dd);
      }
      const close = document.createElement("button");
      close.textContent = "Close";
      close.addEventListener("click", () => box.close());
      box.append(dl, close);
      document.body.append(box);
    }
    if (box.open) box.close(); else box.showModal();
  }

  document.addEventListener("keydown", (e) => {
    if (e.ctrlKey || e.metaKey || e.altKey || typing(e.target)) return;
    const press = (id) => { const b = document.getElementById(id); if (b) b.click(); return !!b; };
    let done = true;
    if (e.key === "?") help();
    else if (e.key === "/") {
      const q = document.getElementById("q");
      if (q) q.focus(); else location.href = "/?focus=q";
    } else if (e.key === "u") done = press("undo");
    else if (e.key === "r") done = press("redo");
    else if (e.key === "a") done = press("add");
    else done = false;
    if (done) e.preventDefault();
  });

  // What is being typed while an answer arrives is kept, and saved when it is left.
  let typed = null;
  document.addEventListener("htmx:beforeSwap", (e) => {
    const el = document.activeElement;
    typed = el && el.id && el.tagName === "INPUT" && e.target.contains(el) && el.value !== el.defaultValue ? { id: el.id, value: el.value } : null;
  });
  document.addEventListener("htmx:afterSwap", () => {
    const el = typed && document.getElementById(typed.id);
    if (!el || el.value === typed.value) return;
    el.value = typed.value;
    el.addEventListener("blur", () => { if (el.value !== el.defaultValue) el.dispatchEvent(new Event("change", { bubbles: true })); }, { once: true });
  });

  const name = (d) => (d.closest("[id]") ? d.closest("[id]").id : "") + "|" + d.querySelector("summary").textContent.trim();
  let open = new Map();
  document.addEventListener("htmx:beforeSwap", (e) => {
    open = new Map();
    if (e.target.querySelectorAll) for (const d of e.target.querySelectorAll("details.proofs, .inspect details")) open.set(name(d), d.open);
  });
  document.addEventListener("htmx:afterSwap", (e) => {
    for (const d of e.target.querySelectorAll("details.proofs, .inspect details")) if (open.has(name(d))) d.open = d.open || open.get(name(d));
  });
  document.addEventListener("DOMContentLoaded", () => {
    if (new URLSearchParams(location.search).get("focus") === "q") { const q = document.getElementById("q"); if (q) q.focus(); }
  });
})();
