// The steps of a trial, one a screen: big ticks, back, where was I. Each tick
// is an entry with its time; what others tick is shown with their names.
(() => {
  "use strict";
  const t = document.trial;
  if (!t) return;
  const strides = [...document.querySelectorAll(".stride")], steps = t.what.steps.length;
  const done = document.getElementById("done"), back = document.getElementById("back"),
    dialog = document.getElementById("steps");
  const last = Math.min(strides.length - 1, steps + 1);
  document.body.classList.add("walking");
  const panels = strides.map((s, i) => {
    if (i > steps) return null;
    const by = document.createElement("p");
    by.className = "by";
    const panel = document.panel.at(i - 1);
    panel.prepend(by);
    s.append(panel);
    return { panel, by };
  });
  const ticks = () => new Map(t.holds().filter((e) => e.kind === "done").map((e) => [e.step, e]));
  const keyOf = (i) => (i > 0 && i <= steps ? t.what.steps[i - 1].key : "");
  const clock = (at) => new Date(at).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" });

  function paint() {
    const all = ticks(), at = t.kept.at;
    strides.forEach((s, i) => {
      s.classList.toggle("now", i === at);
      s.classList.toggle("ticked", all.has(keyOf(i)));
    });
    const e = all.get(keyOf(at));
    if (panels[at]) {
      panels[at].by.textContent = e ? `Done ${clock(e.at)}${e.who ? ` by ${e.who}` : ""}.` : "";
      panels[at].panel.paint();
    }
    back.disabled = at === 0;
    done.textContent = at === 0 ? "Begin" : at > steps ? "Measured beside computed" : e ? "Next" : "Done ✓";
  }
  function show(i, focus) {
    t.kept.at = Math.max(0, Math.min(last, i));
    t.save();
    paint();
    if (focus) {
      window.scrollTo({ top: 0 });
      strides[t.kept.at].focus({ preventScroll: true });
    }
  }
  done.addEventListener("click", () => {
    const at = t.kept.at;
    if (at > steps) {
      location.href = `/trials/${t.code}/compare`;
      return;
    }
    if (keyOf(at) && !ticks().has(keyOf(at))) t.add({ step: keyOf(at), kind: "done" });
    show(at + 1, true);
  });
  back.addEventListener("click", () => show(t.kept.at - 1, true));
  document.addEventListener("keydown", (e) => {
    if (e.target.closest("input, textarea, select, dialog, summary, [role=slider]") || e.ctrlKey || e.metaKey ||
      e.altKey) return;
    if (e.key === "ArrowRight") done.click();
    else if (e.key === "ArrowLeft" && !back.disabled) back.click();
  });

  document.getElementById("list").addEventListener("click", () => {
    const all = ticks();
    dialog.querySelector("ol").replaceChildren(...strides.slice(0, last + 1).map((s, i) => {
      const item = document.createElement("li"), b = document.createElement("button"), e = all.get(keyOf(i));
      b.type = "button";
      b.textContent = `${keyOf(i) ? `${i}. ` : ""}${s.querySelector("h2").textContent.trim()}`;
      b.classList.toggle("ticked", Boolean(e));
      if (i === t.kept.at) b.setAttribute("aria-current", "step");
      b.addEventListener("click", () => {
        dialog.close();
        show(i, true);
      });
      item.append(b);
      if (e) {
        const undo = document.createElement("button");
        undo.type = "button";
        undo.textContent = `${e.who || "done"} ${clock(e.at)}: take the tick back`;
        undo.addEventListener("click", () => {
          t.add({ step: keyOf(i), kind: "undone" });
          dialog.close();
        });
        item.append(undo);
      }
      return item;
    }));
    dialog.showModal();
  });
  dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
  document.addEventListener("trial:changed", paint);
  show(t.kept.at, false);
})();
