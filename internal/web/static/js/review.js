// Commenting on a sentence or on words of it: chosen by a click, a key or a selection, and quoted in the form beside its
// block.
(() => {
  "use strict";
  const lines = () => document.querySelectorAll(".reviewing .said");
  lines().forEach((el) => {
    if (!el.closest(".block")?.querySelector(".says")) return;
    el.tabIndex = 0;
    el.setAttribute("role", "button");
    el.setAttribute("aria-description", "Comment on this sentence");
  });
  function choose(el, words) {
    const says = el.closest(".block").querySelector(".says");
    if (!says) return;
    lines().forEach((one) => one.classList.toggle("chosen", one === el));
    says.open = true;
    says.querySelector("[name=line]").value = el.dataset.key;
    says.querySelector("[name=quote]").value = words || el.textContent.trim();
    const quoted = says.querySelector(".quoted");
    quoted.hidden = false;
    quoted.textContent = words || el.textContent.trim();
    says.querySelector("textarea").focus();
  }
  document.addEventListener("click", (e) => {
    const el = e.target.closest(".reviewing .said");
    if (el) choose(el, getSelection().toString().trim());
  });
  document.addEventListener("keydown", (e) => {
    const el = e.target.closest && e.target.closest(".reviewing .said");
    if (el && (e.key === "Enter" || e.key === " ")) {
      e.preventDefault();
      choose(el);
    }
  });
  document.querySelectorAll(".changed-mark").forEach((el, i) => { el.id = `changed-${i + 1}`; });
})();
