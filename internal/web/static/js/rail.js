// The rail beside a drawing: shows one of its panes, and is a sheet from below
// where the window is narrow.
(() => {
  "use strict";
  const shown = new Map(); // id of a rail -> { pane, for }
  const tabOf = (rail, pane) => rail.querySelector(`[data-tab="${pane}"]`);
  const panes = (rail) => [...rail.querySelectorAll("[data-pane]")].filter((p) => {
    const tab = tabOf(rail, p.dataset.pane);
    return tab && getComputedStyle(tab).display !== "none"; // some are for wide screens only
  });

  function show(rail, pane) {
    shown.set(rail.id, { pane, for: rail.dataset.for });
    for (const p of rail.querySelectorAll("[data-pane]")) p.hidden = p.dataset.pane !== pane;
    for (const t of rail.querySelectorAll("[role=tab]")) {
      const on = t.dataset.tab === pane;
      t.setAttribute("aria-selected", on);
      t.tabIndex = on ? 0 : -1;
    }
  }
  // A board is asked for with the one pane that is seen; another is asked for when it
  // is shown.
  // What a link shows on its page, the same part of the page shows: its address follows.
  document.addEventListener("htmx:configRequest", (e) => {
    if (e.detail.path !== "board") return;
    const page = e.detail.elt.getAttribute("href");
    e.detail.path = /\/settings(\?|$)/.test(page) ? page.replace(/\/settings(?=\?|$)/, "/settings/board") :
      page.replace(/^(\/models\/[^/?]+)/, "$1/system/board");
  });
  document.addEventListener("htmx:configRequest", (e) => {
    const rail = document.querySelector("[data-board]"), at = rail && shown.get(rail.id);
    if (at && e.detail.verb === "get" && e.detail.target.id === "board") e.detail.parameters.pane = at.pane;
  });
  function load(rail, pane) {
    const el = rail.querySelector(`[data-pane="${pane}"][data-lazy]`);
    if (el) htmx.ajax("GET", `${rail.dataset.board}&again=yes`, { target: "#board", swap: "patch" });
  }
  function settle(rail) {
    const was = shown.get(rail.id), list = panes(rail);
    if (!list.length) return;
    let pane = was && was.pane;
    if (!was || was.for !== rail.dataset.for) {
      const at = list.find((p) => p.dataset.pane === pane);
      if (rail.dataset.show) pane = rail.dataset.show;
      else if (at && "general" in at.dataset && rail.dataset.for) pane = "";
      if (rail.dataset.for && (was || "opens" in rail.dataset)) raise(true);
    }
    if (!list.some((p) => p.dataset.pane === pane)) pane = list[0].dataset.pane;
    show(rail, pane);
    load(rail, pane);
  }
  function open(tab) {
    const rail = tab.closest("[data-tabs]");
    show(rail, tab.dataset.tab);
    load(rail, tab.dataset.tab);
  }
  const all = () => document.querySelectorAll("[data-tabs]").forEach(settle);

  function raise(up) {
    document.documentElement.toggleAttribute("data-sheet", up);
    for (const grip of document.querySelectorAll(".grip")) grip.setAttribute("aria-expanded", up);
  }
  document.addEventListener("click", (e) => {
    const tab = e.target.closest("[role=tab][data-tab]"), grip = e.target.closest(".grip");
    if (tab) open(tab);
    if (grip) raise(!document.documentElement.hasAttribute("data-sheet"));
  });
  // i goes from the drawing to the first field of what is chosen, Esc back to it.
  const fields = "[role=tabpanel]:not([hidden]) :is(input, select, textarea, a, button)";
  const first = (rail) => [...rail.querySelectorAll(fields)]
    .find((el) => el.offsetParent && el.type !== "hidden");
  const chosen = () => document.querySelector(".drawing a.part.mark-chosen") || document.querySelector(".drawing");
  let aim = false; // i is down: focus moves when it comes up, so that it types nothing
  document.addEventListener("keyup", (e) => {
    const rail = document.querySelector(".rail");
    if (!aim || e.key !== "i" || !rail) return;
    aim = false;
    raise(true);
    (first(rail) || rail.querySelector("[data-home]")).focus();
  });
  function aside(e) {
    const rail = document.querySelector(".rail"), at = document.activeElement;
    if (!rail || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === "i" && (at === document.body || at.closest(".drawing"))) aim = true;
    else if (e.key === "Escape" && at.closest(".rail") && !document.querySelector("details.adds[open], .notice")) {
      const back = chosen();
      if (back) back.focus();
    }
  }
  // Arrows go through the lists of the rail.
  function along(e) {
    const by = { ArrowUp: -1, ArrowDown: 1 }[e.key], at = e.target.closest && e.target.closest(".rail li a");
    if (!by || !at) return;
    const list = [...at.closest("[role=tabpanel]").querySelectorAll("li a")].filter((a) => a.offsetParent);
    const next = list[list.indexOf(at) + by];
    if (next) next.focus();
    e.preventDefault();
  }
  document.addEventListener("keydown", (e) => {
    aside(e);
    along(e);
    if (e.key === "Escape") raise(false);
    const tab = e.target.closest && e.target.closest("[role=tab][data-tab]");
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (!tab || !by) return;
    const tabs = [...tab.parentElement.querySelectorAll("[role=tab]")].filter((t) => t.offsetParent);
    const next = tabs[(tabs.indexOf(tab) + by + tabs.length) % tabs.length];
    next.focus();
    open(next);
    e.preventDefault();
  });
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:afterSwap", all);
})();
