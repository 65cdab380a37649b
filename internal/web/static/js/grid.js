// The grid of lines and parts: arrow keys and Enter move between cells, a
// pasted block goes to the server whole, a button copies all as a block.
(() => {
  "use strict";

  function move(input, rows, columns) {
    const td = input.closest("td"), tr = td.parentElement;
    const row = tr.parentElement.rows[tr.rowIndex - 1 + rows];
    const to = row && row.cells[td.cellIndex + columns];
    const next = to && to.querySelector("input:not([type=hidden])");
    if (next) { next.focus(); next.select(); }
    return !!next;
  }

  document.addEventListener("keydown", (e) => {
    const input = e.target.closest && e.target.closest(".grid input");
    if (!input) return;
    if (e.ctrlKey && e.key === "d") { // fill down
      e.preventDefault();
      const td = input.closest("td"), row = td.parentElement.previousElementSibling;
      const above = row && row.cells[td.cellIndex].querySelector("input");
      if (!above || above.value === input.value) return;
      input.value = above.value;
      input.dispatchEvent(new Event("input", { bubbles: true }));
      input.dispatchEvent(new Event("change", { bubbles: true }));
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const start = input.selectionStart === 0 && input.selectionEnd === input.value.length || input.value === "";
    const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], Enter: [1, 0] }[e.key] ||
      (start && { ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key]);
    if (by) {
      e.preventDefault();
      move(input, by[0], by[1]);
    } else if (e.key === "Escape") {
      input.value = input.defaultValue;
    }
  });

  // A row sends the cell that was left; Enter only moves.
  document.addEventListener("htmx:configRequest", (e) => {
    const { elt, parameters, triggeringEvent } = e.detail, form = document.getElementById("paste");
    if (!elt.matches(".grid tr")) return;
    for (const name of ["from", "back", "what"]) parameters[name] = form.elements[name].value;
    parameters[triggeringEvent.target.name] = triggeringEvent.target.value;
  });

  document.addEventListener("paste", (e) => {
    const grid = e.target.closest && e.target.closest(".grid");
    const text = e.clipboardData && e.clipboardData.getData("text/plain");
    if (!grid || !text || !/[\t\n]/.test(text.trimEnd())) return;
    e.preventDefault();
    const form = document.getElementById("paste");
    form.querySelector("textarea").value = text;
    form.requestSubmit();
  });

  document.addEventListener("copy", (e) => {
    const grid = e.target.closest && e.target.closest(".grid");
    if (!grid || (e.target.selectionStart !== e.target.selectionEnd)) return;
    const block = document.getElementById("block");
    if (block) { e.clipboardData.setData("text/plain", block.value); e.preventDefault(); }
  });

  document.addEventListener("click", (e) => {
    const button = e.target.closest && e.target.closest("[data-copy]");
    if (!button) return;
    const block = document.querySelector(button.dataset.copy);
    const done = () => { button.textContent = "Copied"; };
    const byHand = () => {
      block.select();
      document.execCommand("copy");
      done();
    };
    if (navigator.clipboard) navigator.clipboard.writeText(block.value).then(done, byHand);
    else byHand();
  });
})();
