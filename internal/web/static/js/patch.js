// How an answer is put into the page: what is as the server sent it last is left alone, a
// drawing is brought up to date element by element, and the rest is changed in place.
(() => {
  "use strict";
  // What the server sent last of each kept block, by its id: with an id, [data-keep]
  // says that nothing of it changes but by answers.
  const last = new Map();
  const from = /(name="from"\s+value=")\d+/g; // the state that a form starts from is no content
  const content = (el) => el.outerHTML.replace(from, "$1");
  const remember = (root) => { for (const el of root.querySelectorAll("[data-keep]")) last.set(el.id, content(el)); };

  // A drawing of the same shape differs in few attributes; where the shape differs, it is
  // put in whole. Focus stays, and what has new links is given to htmx.
  function attributes(old, now) {
    let linked = false;
    for (const { name, value } of [...now.attributes]) {
      if (old.getAttribute(name) === value) continue;
      old.setAttribute(name, value);
      linked = linked || name.startsWith("hx-");
    }
    for (const { name } of [...old.attributes]) if (!now.hasAttribute(name)) old.removeAttribute(name);
    return linked;
  }
  function sync(old, now, changed) {
    if (old.isEqualNode(now)) return;
    if (old.nodeType !== 1) {
      if (old.data !== now.data) old.data = now.data;
      return;
    }
    // How a name is fitted is the page's own affair.
    const linked = !old.classList.contains("name") && attributes(old, now);
    if (linked) changed.push(old);
    const a = [...old.childNodes], b = [...now.childNodes];
    const same = a.length === b.length && a.every((n, i) => n.nodeName === b[i].nodeName && n.id === b[i].id);
    if (same) a.forEach((n, i) => sync(n, b[i], changed));
    else {
      old.replaceChildren(...b);
      changed.push(old);
    }
  }

  htmx.defineExtension("patch", {
    isInlineSwap: (style) => style === "patch",
    handleSwap(style, target, fragment) {
      if (style !== "patch") return false;
      const kept = new Set(), changed = [];
      const state = fragment.querySelector("[name=from]");
      for (const el of fragment.querySelectorAll("[data-keep]")) {
        const old = target.querySelector("#" + CSS.escape(el.id));
        if (old && "kept" in el.dataset) { // the server says so
          kept.add(el.id);
          continue;
        }
        const now = content(el);
        const untouched = old && last.get(el.id) === now;
        last.set(el.id, now);
        const svg = old && el.querySelector(":scope > svg"), drawn = old && old.querySelector(":scope > svg");
        if (!untouched && (!svg || !drawn)) continue;
        if (!untouched) {
          const focus = document.activeElement, id = old.contains(focus) ? focus.id : "";
          const style = drawn.getAttribute("style"), small = drawn.hasAttribute("data-small");
          sync(drawn, svg, changed);
          if (style) drawn.style.cssText = style; // the reader's zoom
          drawn.toggleAttribute("data-small", small);
          const again = id && !focus.isConnected && document.getElementById(id);
          if (again) again.focus({ preventScroll: true });
        }
        kept.add(el.id);
        el.replaceChildren();
      }
      const linked = (el) => el.nodeType === 1 && [...el.attributes].some((a) => a.name.startsWith("hx-"));
      Idiomorph.morph(target, fragment.children, { morphStyle: "innerHTML",
        callbacks: Object.assign({}, Idiomorph.defaults.callbacks, {
          beforeNodeMorphed: (old) => !(old.id && kept.has(old.id)),
          afterNodeMorphed: (old) => { if (linked(old)) changed.push(old); },
          afterNodeAdded: (el) => { if (el.nodeType === 1) changed.push(el); },
        }) });
      if (state) for (const el of target.querySelectorAll("[name=from]")) el.value = state.value;
      // What asks again as soon as it is there asks each time that it comes: htmx lets an element do so once.
      for (const el of target.querySelectorAll("[hx-trigger^=load]")) {
        const again = el.cloneNode(true);
        el.replaceWith(again);
        changed.push(again);
      }
      return changed; // what htmx has to look through; the rest it knows
    },
  });
  document.addEventListener("DOMContentLoaded", () => remember(document));
  // What a hand has changed of a kept block is taken back by the next answer.
  document.addEventListener("patch:forget", (e) => {
    for (const el of e.target.querySelectorAll("[data-keep]")) last.delete(el.id);
  });
})();
