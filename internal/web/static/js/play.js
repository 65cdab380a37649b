// Plays a run on the drawings: lines fill, empty and colour, levels move,
// handles turn, what comes out at an outlet is seen there.
(() => {
  "use strict";
  const still = matchMedia("(prefers-reduced-motion: reduce)");
  let film = null, asked = "", sums = [], at = 0, timer = 0;

  const $ = (sel, root) => (root || document).querySelector(sel);
  const $$ = (sel, root) => [...(root || document).querySelectorAll(sel)];
  const esc = (id) => CSS.escape(id);
  const svgNS = "http://www.w3.org/2000/svg";
  const letters = { w: "W", g: "F", c: "S", v: "V", a: "A" };
  const names = { w: "water", g: "antifreeze", c: "sanitizer", v: "vinegar", a: "air" };

  // Frames say what changed: their sums say everything, step by step.
  const kinds = ["l", "v", "o", "w", "j", "h", "p", "e", "c", "x", "a"];
  function load(frames) {
    const now = {};
    for (const k of kinds) now[k] = {};
    sums = frames.map((f) => {
      for (const k of kinds) if (f[k]) now[k] = { ...now[k], ...f[k] };
      return { ...now, s: f.s, t: f.t };
    });
  }

  // Where a drawn part of a run's line begins and ends, as its dashes.
  function dashed(length, from, to, dot, gap) {
    const a = length * from / 100, z = length * to / 100;
    if (!dot) return `0 ${a} ${z - a} ${length}`;
    let list = `0 ${a}`;
    for (let x = a; x < z; x += dot + gap) {
      list += ` ${Math.min(dot, z - x)} ${Math.min(gap, Math.max(0.01, z - x - dot))}`;
    }
    return list + ` 0 ${length}`;
  }
  const patterns = { g: [2, 5], c: [7, 5], v: [1, 2.5] };
  function segment(d, length, from, to, kind) {
    const band = document.createElementNS(svgNS, "path"), out = [band];
    band.setAttribute("d", d);
    band.setAttribute("class", `wet fluid-${kind[0]}`);
    if (kind[1]) band.style.strokeOpacity = 0.35 + 0.065 * kind[1];
    band.setAttribute("stroke-dasharray", dashed(length, from, to));
    const p = patterns[kind[0]];
    if (p) {
      const grain = document.createElementNS(svgNS, "path");
      grain.setAttribute("d", d);
      grain.setAttribute("class", "grain");
      grain.setAttribute("stroke-dasharray", dashed(length, from, to, p[0], p[1]));
      out.push(grain);
    }
    return out;
  }
  function line(svg, id, text) {
    const run = $(`.line[data-line="${esc(id)}"] .run`, svg);
    if (!run) return;
    let wets = $(".played", svg);
    if (!wets) {
      wets = document.createElementNS(svgNS, "g");
      wets.setAttribute("class", "played");
      const lines = run.closest("g.lines") || run.closest(".line");
      lines.parentNode.insertBefore(wets, $(".line", svg).closest("g.lines") || $(".line", svg));
    }
    let g = $(`[data-wet="${esc(id)}"]`, wets);
    if (!g) {
      g = document.createElementNS(svgNS, "g");
      g.setAttribute("data-wet", id);
      wets.append(g);
    }
    if (g.dataset.is === text) return;
    g.dataset.is = text;
    g.replaceChildren();
    const d = run.getAttribute("d"), length = run.getTotalLength();
    let from = 0;
    for (const piece of (text || "").split(" ")) {
      const [kind, to] = piece.split(".");
      if (kind && kind !== "a" && +to > from) g.append(...segment(d, length, from, +to, kind));
      from = +to;
    }
  }

  // A vessel's own shape is filled from below.
  function vessel(svg, id, v) {
    const box = $(`.part[data-part="${esc(id)}"] .symbol`, svg), side = $(`[data-body="${esc(id)}"]`, svg);
    const shape = side || (box && $(".vessel, .body", box));
    if (!shape) return;
    const host = side ? side.parentNode : box;
    let level = $(`[data-level="${esc(id)}"]`, host);
    if (!level) {
      level = document.createElementNS(svgNS, "rect");
      level.setAttribute("data-level", id);
      const old = !side && $(".level", box);
      if (old) old.setAttribute("visibility", "hidden");
      shape.after(level);
    }
    const b = shape.getBBox(), h = b.height * Math.max(0, Math.min(1, v.f || 0));
    for (const [k, x] of [["x", b.x + 1], ["y", b.y + b.height - h], ["width", b.width - 2], ["height", h]]) {
      level.setAttribute(k, x);
    }
    level.setAttribute("rx", Math.min(+shape.getAttribute("rx") || 0, h / 2));
    level.setAttribute("class", `filled fluid-${(v.k || "w")[0]}`);
    level.style.fillOpacity = v.k && v.k[1] ? 0.35 + 0.065 * v.k[1] : "";
  }

  // What comes out at an outlet hangs from it as a drop with its letter.
  function drop(svg, id, kind) {
    const part = $(`.part[data-part="${esc(id)}"]`, svg);
    if (!part) return;
    let g = $(".drop", part);
    if (!kind) {
      if (g) g.remove();
      return;
    }
    const hit = $(".symbol", part).getBBox(), m = $(".symbol", part).transform.baseVal.consolidate();
    const x = (m ? m.matrix.e : 0) + hit.width / 2, y = (m ? m.matrix.f : 0) + hit.y - 2;
    if (!g) {
      g = document.createElementNS(svgNS, "g");
      g.innerHTML = '<circle r="9"/><text y="4" text-anchor="middle"></text>';
      part.append(g);
    }
    g.setAttribute("class", `drop fluid-${kind[0]}`);
    g.setAttribute("transform", `translate(${x} ${y})`);
    g.lastChild.textContent = letters[kind[0]];
  }
  function handles(svg, now) {
    const store = $("#symbols");
    if (!store) return;
    for (const g of $$("g[data-of]", store.content)) {
      if (now.h[g.dataset.by] !== g.dataset.at) continue;
      const symbol = $(`.part[data-part="${esc(g.dataset.of)}"] > .symbol`, svg);
      if (!symbol || symbol.dataset.at === g.dataset.at) continue;
      symbol.dataset.at = g.dataset.at;
      symbol.replaceChildren(...[...g.childNodes].map((n) => n.cloneNode(true)));
    }
  }

  function draw(i) {
    const now = sums[i];
    if (!now) return;
    for (const svg of $$(".stage svg.schematic[data-width], .stage svg.side-view")) {
      for (const [id, text] of Object.entries(now.l)) line(svg, id, text);
      handles(svg, now);
      for (const [id, v] of Object.entries(now.v)) vessel(svg, id, v);
      for (const part of $$(".part .drop", svg)) if (!now.o[part.closest(".part").dataset.part]) part.remove();
      for (const [id, kind] of Object.entries(now.o)) drop(svg, id, kind);
      for (const [list, name] of [[now.p, "is-running"], [now.e, "is-open"], [now.c, "is-joined"], [now.x, "is-out"]]) {
        for (const [id, on] of Object.entries(list)) {
          const el = $(`.part[data-part="${esc(id)}"]`, svg);
          if (el) el.classList.toggle(name, !!on);
        }
      }
    }
    for (const g of $$("[data-gauge]")) {
      const v = (g.dataset.kind === "waste" ? now.w : now.j)[g.dataset.gauge] || 0, holds = +g.dataset.holds;
      $("b", g).textContent = `${v.toFixed(v < 10 ? 1 : 0)} L`;
      $("i", g).style.width = holds ? `${Math.min(100, 100 * v / holds)}%` : "0";
      g.classList.toggle("over", holds > 0 && v > holds);
    }
    mark(now);
  }

  // The step that runs is marked in the list, and stays in sight.
  let marked = null;
  function mark(now) {
    const li = now.s >= 0 ? $(`#step-${now.s + 1}`) : null, first = sums.findIndex((f) => f.s === now.s);
    const clock = li ? +li.dataset.clock + Math.max(0, now.t - (sums[first - 1] || { t: 0 }).t) : 0;
    $("#moment").textContent = said(clock) + (li ? `, step ${now.s + 1}` : ", before the first step");
    if (li === marked) return;
    if (marked) marked.removeAttribute("aria-current");
    marked = li;
    for (const el of $$(".stage .now")) el.classList.remove("now");
    if (!li) return;
    li.setAttribute("aria-current", "step");
    li.scrollIntoView({ block: "nearest", behavior: still.matches ? "auto" : "smooth" });
  }
  function said(s) {
    const two = (v) => String(Math.floor(v)).padStart(2, "0");
    const minutes = `${two(s / 60 % 60)}:${two(s % 60)}`;
    return s < 3600 ? `${Math.floor(s / 60)}:${two(s % 60)}` : `${Math.floor(s / 3600)}:${minutes}`;
  }

  function go(i) {
    at = Math.max(0, Math.min(sums.length - 1, i));
    const scrub = $("#scrub");
    if (scrub) {
      scrub.value = at;
      scrub.setAttribute("aria-valuetext", sums[at] && sums[at].s >= 0 ? `step ${sums[at].s + 1}` : "start");
    }
    draw(at);
  }
  const endOf = (step) => sums.reduce((last, f, i) => (f.s <= step ? i : last), 0);
  function stop() {
    clearTimeout(timer);
    timer = 0;
    const b = $('[data-play="go"]');
    if (b) [b.textContent, b.ariaPressed] = ["Play", "false"];
  }
  function tick() {
    if (at >= sums.length - 1) return stop();
    const step = sums[at].s;
    go(still.matches ? endOf(step + 1) : at + 1);
    const speed = +$("#speed").value, turned = sums[at].s !== step;
    timer = setTimeout(tick, (still.matches ? 1500 : turned ? 420 : 110) / speed);
  }
  function play() {
    if (timer) return stop();
    if (at >= sums.length - 1) go(0);
    const b = $('[data-play="go"]');
    [b.textContent, b.ariaPressed] = ["Pause", "true"];
    timer = setTimeout(tick, 50);
  }

  async function fetchFilm() {
    const box = $("#play");
    if (!box || asked === box.dataset.film) return;
    asked = box.dataset.film;
    stop();
    box.setAttribute("aria-busy", "true");
    const answer = await fetch(asked).catch(() => null);
    box.removeAttribute("aria-busy");
    if (!answer || !answer.ok) {
      $("#moment").textContent = "The run can't be loaded; load the page again.";
      asked = "";
      return;
    }
    film = await answer.json();
    load(film.frames);
    const scrub = $("#scrub");
    scrub.max = sums.length - 1;
    box.dataset.ready = sums.length;
    go(Math.min(at, sums.length - 1));
  }

  document.addEventListener("click", (e) => {
    const b = e.target.closest("[data-play], [data-jump], [data-side], [data-show]");
    if (!b) return;
    if (b.dataset.jump) {
      stop();
      return go(endOf(+b.dataset.jump - 1));
    }
    if ("side" in b.dataset) {
      const on = b.ariaPressed !== "true";
      b.ariaPressed = String(on);
      $(".stage > .drawn").hidden = on;
      $(".sideways").hidden = !on;
      return draw(at);
    }
    if ("show" in b.dataset) return show(b);
    const step = sums[at] ? sums[at].s : 0;
    if (b.dataset.play === "go") play();
    else if (b.dataset.play === "back") (stop(), go(endOf(step - 1)));
    else (stop(), go(endOf(step + 1)));
  });
  // A breach lights up where it is, at the moment when it is first so.
  function show(button) {
    const li = button.closest("[data-step]");
    stop();
    go(li ? endOf(+li.dataset.step - 1) : sums.length - 1);
    for (const el of $$(".stage .mark-breach")) el.classList.remove("mark-breach");
    const id = esc(button.dataset.show);
    for (const el of $$(`.stage [data-part="${id}"], .stage .line[data-line="${id}"]`)) el.classList.add("mark-breach");
  }
  document.addEventListener("input", (e) => {
    if (e.target.id !== "scrub") return;
    stop();
    go(+e.target.value);
  });
  document.addEventListener("keydown", (e) => {
    if (!$("#play") || e.ctrlKey || e.metaKey || e.altKey) return;
    const on = document.activeElement;
    if (on !== document.body && !on.closest(".drawing, .runsteps button")) return;
    const act = { " ": play, ArrowRight: () => (stop(), go(at + 1)), ArrowLeft: () => (stop(), go(at - 1)) }[e.key];
    if (!act || (e.key === " " && on.matches("button"))) return;
    act();
    e.preventDefault();
  });

  // A step is dragged to another place.
  let dragged = null;
  document.addEventListener("dragstart", (e) => {
    if (!e.target.matches || !e.target.matches(".drag")) return;
    dragged = e.target.closest("[data-key]");
    e.dataTransfer.effectAllowed = "move";
    e.dataTransfer.setData("text/plain", dragged.dataset.key);
    dragged.classList.add("dragged");
  });
  const target = (e) => dragged && e.target.closest && e.target.closest(".runsteps > [data-key]");
  document.addEventListener("dragover", (e) => {
    const li = target(e);
    for (const el of $$(".runsteps .over")) el.classList.remove("over");
    if (!li || li === dragged) return;
    li.classList.add("over");
    e.preventDefault();
  });
  document.addEventListener("drop", (e) => {
    const li = target(e), form = $("#move-step");
    if (!li || !form) return;
    e.preventDefault();
    form.elements.key.value = dragged.dataset.key;
    form.elements.before.value = li.dataset.key;
    form.submit();
  });
  document.addEventListener("dragend", () => {
    if (dragged) dragged.classList.remove("dragged");
    dragged = null;
  });

  document.addEventListener("htmx:afterSwap", () => {
    marked = null;
    if ($("#play")) fetchFilm().then(() => go(at));
  });
  addEventListener("load", fetchFilm);
})();
