// Fields that belong to a choice are there where it is chosen: a block says in
// data-for for which values of the choice before it.
(() => {
  "use strict";
  const paint = (form) => {
    const kind = form.querySelector("select[name=kind]");
    form.querySelectorAll("[data-for]").forEach((block) => {
      const on = Boolean(kind) && block.dataset.for.split(" ").includes(kind.value);
      block.hidden = !on;
      block.querySelectorAll("input, select").forEach((f) => { f.disabled = !on; });
    });
  };
  const forms = () => new Set([...document.querySelectorAll("[data-for]")].map((b) => b.closest("form")));
  document.addEventListener("change", (e) => {
    if (e.target.name === "kind" && e.target.form) paint(e.target.form);
  });
  forms().forEach(paint);
})();
