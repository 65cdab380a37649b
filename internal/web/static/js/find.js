// Finds words in the text of a page: all are marked, Enter goes to the next.
(() => {
  "use strict";
  let found = [], at = -1;
  const shown = (node) => node.parentElement && node.parentElement.checkVisibility();

  function ranges(root, words) {
    const list = [], walk = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
    for (let node = walk.nextNode(); node; node = walk.nextNode()) {
      if (node.parentElement.closest(".blocktools, script, style") || !shown(node)) continue;
      const text = node.data.toLowerCase();
      for (let i = text.indexOf(words); i >= 0; i = text.indexOf(words, i + words.length)) {
        const r = new Range();
        r.setStart(node, i);
        r.setEnd(node, i + words.length);
        list.push(r);
      }
    }
    return list;
  }

  function mark(form) {
    const words = form.querySelector("input").value.trim().toLowerCase(), said = form.querySelector("output");
    found = words.length > 1 ? ranges(document.querySelector(form.dataset.finds), words) : [];
    at = -1;
    if (window.Highlight) {
      CSS.highlights.set("found", new Highlight(...found));
      CSS.highlights.delete("found-now");
    }
    said.textContent = words.length > 1 ? (found.length ? `${found.length} places` : "nowhere") : "";
  }

  function go(form, step) {
    if (!found.length) return;
    at = (at + step + found.length) % found.length;
    const r = found[at];
    if (window.Highlight) CSS.highlights.set("found-now", new Highlight(r));
    r.startContainer.parentElement.scrollIntoView({ block: "center" });
    form.querySelector("output").textContent = `${at + 1} of ${found.length}`;
  }

  document.addEventListener("input", (e) => {
    const form = e.target.closest("[data-finds]");
    if (form) mark(form);
  });
  document.addEventListener("submit", (e) => {
    const form = e.target.closest("[data-finds]");
    if (form) e.preventDefault();
  });
  document.addEventListener("keydown", (e) => {
    const form = e.target.closest && e.target.closest("[data-finds]");
    if (!form || e.key !== "Enter") return;
    e.preventDefault();
    go(form, e.shiftKey ? -1 : 1);
  });
})();
