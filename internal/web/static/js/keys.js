// Keys for every page: / search, ? this list, u undo, r redo, a add. A letter
// is a command only where nothing can be typed: on a drawing or the page itself.
(() => {
  "use strict";
  const list = [
    ["/", "search"], ["?", "this list"], ["u", "undo"], ["r", "redo"], ["a", "add to the system"],
    ["j", "join two ports by pointing"],
    ["n p", "next and previous part, on a drawing"], ["Enter", "turn the handle, choose the part"],
    ["+ − 0", "zoom a drawing"],
    ["i", "from the drawing to the first field beside it; Esc back"], ["arrows", "through a list beside the drawing"],
    ["Alt + arrows", "move the chosen symbol"], ["arrows Enter", "move in the grid"],
    ["1 … 9", "choose an answer, in a drill"], ["Enter h n", "answer, a hint, the next question, in a drill"],
    ["↑ ↓", "move the step that has the focus, in a drill"],
    ["Ctrl + d", "take the cell above, in the grid"], ["Esc", "close; take back a cell"],
  ];
  const commands = (el) => el === document.body || !!el.closest(".drawing");

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
    if (e.repeat || e.ctrlKey || e.metaKey || e.altKey || !commands(document.activeElement || document.body)) return;
    const press = (id) => { const b = document.getElementById(id); if (b) b.click(); return !!b; };
    let done = true;
    if (e.key === "?") help();
    else if (e.key === "/") {
      const q = document.getElementById("q");
      if (q) q.focus(); else location.href = "/?focus=q";
    } else if (e.key === "u") done = press("undo");
    else if (e.key === "r") done = press("redo");
    else if (e.key === "a") done = press("add");
    else if (e.key === "j") done = press("join-by");
    else done = false;
    if (done) e.preventDefault();
  });

  document.addEventListener("DOMContentLoaded", () => {
    const q = document.getElementById("q");
    if (q && new URLSearchParams(location.search).get("focus") === "q") q.focus();
  });
})();
