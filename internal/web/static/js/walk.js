// A procedure one step a screen: big ticks, back, where was I, clocks for what
// takes its time, and a second phone that goes along.
(() => {
  "use strict";
  const body = document.body, main = document.getElementById("main"), article = document.querySelector(".walk");
  const strides = [...article.querySelectorAll(".stride")];
  if (!strides.length) return;
  const base = body.dataset.base, guide = base.slice(0, base.lastIndexOf("/")), task = body.dataset.task;
  const key = `walk ${guide} ${task}`;
  const read = (k) => { try { return JSON.parse(localStorage.getItem(k) || "null"); } catch { return null; } };
  const write = (k, v) => { try { localStorage.setItem(k, JSON.stringify(v)); } catch { /* nothing is kept then */ } };
  const state = Object.assign({ at: 0, ticked: {}, clocks: {}, off: {}, ended: false }, read(key) || {});
  const last = strides.length - 1, steps = Number(body.dataset.steps);
  const save = () => write(key, state);

  const nav = document.querySelector(".ticks"), done = document.getElementById("done"),
    back = document.getElementById("back");
  const dialog = document.getElementById("steps");
  body.classList.add("walking");
  nav.hidden = steps === 0;

  function show(n, focus) {
    state.at = Math.min(last, Math.max(0, n));
    strides.forEach((s, i) => s.classList.toggle("now", i === state.at));
    strides.forEach((s, i) => s.classList.toggle("ticked", Boolean(state.ticked[i])));
    back.disabled = state.at === 0;
    done.textContent = state.at === 0 ? "Begin" : state.at === last ? "All done" : state.ticked[state.at] ? "Next" : "Done ✓";
    if (state.at > steps && steps > 0) done.textContent = state.ended ? "To the guide" : "All done";
    const now = strides[state.at];
    const step = document.querySelector("#report [name=step]");
    step.value = String(Math.min(state.at, steps));
    document.querySelector("#report [name=said]").value = (now.querySelector("h2") || now).textContent.trim().slice(0,
      500);
    if (focus) {
      window.scrollTo({ top: 0 });
      now.focus({ preventScroll: true });
    }
    if (history.replaceState) history.replaceState(null, "", `${location.pathname}${walkHash()}`);
    save();
  }

  done.addEventListener("click", () => {
    if (state.at > steps || steps === 0) {
      state.ended = true;
      save();
      location.href = base;
      return;
    }
    if (state.at > 0) tick(state.at, true);
    state.ended = false;
    show(state.at + 1, true);
    send("at", state.at);
    document.dispatchEvent(new Event("reader:step"));
  });
  back.addEventListener("click", () => {
    show(state.at - 1, true);
    send("at", state.at);
  });
  document.addEventListener("keydown", (e) => {
    if (e.target.closest("input, textarea, dialog, summary") || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === "ArrowRight") done.click();
    else if (e.key === "ArrowLeft" && !back.disabled) back.click();
  });
  function tick(n, on) {
    if (on) state.ticked[n] = Date.now(); else delete state.ticked[n];
    send(on ? "done" : "undone", n);
    save();
  }

  // All steps, to go to one or take a tick back.
  document.getElementById("list").addEventListener("click", () => {
    const list = dialog.querySelector("ol");
    list.replaceChildren(...strides.map((s, i) => {
      const item = document.createElement("li"), b = document.createElement("button");
      b.type = "button";
      b.textContent = `${i > 0 && i <= steps ? `${i}. ` : ""}${s.querySelector("h2").textContent.trim()}`;
      b.classList.toggle("ticked", Boolean(state.ticked[i]));
      if (i === state.at) b.setAttribute("aria-current", "step");
      b.addEventListener("click", () => {
        dialog.close();
        show(i, true);
      });
      item.append(b);
      return item;
    }));
    dialog.showModal();
  });
  dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());

  // Checks of what was taken off.
  document.querySelectorAll("[data-off]").forEach((box) => {
    box.checked = Boolean(state.off[box.dataset.off]);
    box.addEventListener("change", () => {
      state.off[box.dataset.off] = box.checked;
      save();
    });
  });

  // Clocks go on when the page is closed: what is kept is when they end.
  const two = (n) => String(n).padStart(2, "0");
  const span = (s) => (s >= 3600 ? `${Math.floor(s / 3600)} h ${two(Math.floor(s / 60) % 60)} min` : `${Math.floor(s / 60)}:${two(s % 60)}`);
  const clockTime = (t) => new Date(t).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" });
  strides.forEach((s, i) => {
    const box = s.querySelector(".clock"), waits = Number(s.dataset.waits);
    if (!box || !waits) return;
    const say = document.createElement("p"), out = document.createElement("output"),
      b = document.createElement("button");
    b.type = "button";
    box.append(say, out, b);
    b.addEventListener("click", () => {
      if (state.clocks[i]) delete state.clocks[i];
      else {
        state.clocks[i] = Date.now() + waits * 1000;
        send("clock", i, state.clocks[i]);
      }
      save();
      paint();
    });
    let rang = false;
    function paint() {
      const end = state.clocks[i];
      const left = end ? Math.ceil((end - Date.now()) / 1000) : waits;
      if (!end) {
        say.textContent = `It takes ${span(waits)}: from now until ${clockTime(Date.now() + waits * 1000)}.` +
          (box.dataset.alone ? " Nobody has to stay." : "");
        out.textContent = "";
        b.textContent = "Start the clock";
      } else if (left > 0) {
        say.textContent = `It is done at ${clockTime(end)}.`;
        out.textContent = span(left);
        b.textContent = "Stop the clock";
      } else {
        say.textContent = `It was done at ${clockTime(end)}.`;
        out.textContent = "Time is up";
        b.textContent = "Start again";
        if (!rang && left > -5 && navigator.vibrate) navigator.vibrate([300, 150, 300]);
        rang = true;
      }
    }
    paint();
    setInterval(paint, 1000);
    box.addEventListener("clock", paint);
  });

  // A second phone: what each ticks is kept on the server by names of its own, so that nothing is lost or doubled
  // however often it is sent.
  const hash = new URLSearchParams(location.hash.slice(1));
  const walk = { code: hash.get("walk") || (state.walk || {}).code || "", side: hash.get("as") || (state.walk ||
    {}).side || "" };
  if (hash.get("walk") && (state.walk || {}).code !== hash.get("walk")) state.unsent = [];
  state.walk = walk;
  state.unsent = state.unsent || [];
  const seen = new Set();
  function walkHash() { return walk.code ? `#walk=${walk.code}&as=${walk.side}` : ""; }
  const name = () => (crypto.randomUUID ? crypto.randomUUID() : `${Date.now()}-${Math.random().toString(36).slice(2, 12)}`);
  function send(what, step, at) {
    if (!walk.code) return;
    state.unsent.push({ mark: name(), step, what, at: at || Date.now(), side: walk.side });
    save();
    meet();
  }
  let meeting = false;
  async function meet() {
    if (!walk.code || meeting) return;
    meeting = true;
    const sent = state.unsent.slice(0, 200);
    try {
      const got = await fetch(`/readers/walk/${walk.code}/marks`, sent.length
        ? { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" },
          body: JSON.stringify({ marks: sent }) }
        : { headers: { Accept: "application/json" } });
      if (!got.ok) throw new Error(String(got.status));
      const all = (await got.json()).marks || [];
      const names = new Set(sent.map((m) => m.mark));
      state.unsent = state.unsent.filter((m) => !names.has(m.mark));
      join(all);
      paired(true);
    } catch {
      paired(false);
    }
    meeting = false;
    save();
    if (state.unsent.length && navigator.onLine) setTimeout(meet, 400);
  }
  let other = "";
  function join(all) {
    const ticks = {};
    let place = null;
    all.forEach((m) => {
      if (m.what === "done" || m.what === "undone") {
        if (!ticks[m.step] || ticks[m.step].at <= m.at) ticks[m.step] = m;
      }
      if (m.what === "clock" && !seen.has(m.mark)) state.clocks[m.step] = m.at;
      if (m.what === "at" && m.side !== walk.side && (!place || place.at <= m.at)) place = m;
      seen.add(m.mark);
    });
    Object.values(ticks).forEach((m) => {
      if (m.what === "done") state.ticked[m.step] = state.ticked[m.step] || m.at; else delete state.ticked[m.step];
    });
    strides.forEach((s, i) => s.classList.toggle("ticked", Boolean(state.ticked[i])));
    other = place ? `The other is at step ${Math.min(place.step, steps)}.` : "The other has not come yet.";
    document.querySelectorAll(".clock").forEach((box) => box.dispatchEvent(new Event("clock")));
  }
  const bar = document.getElementById("pairing");
  const sides = { container: "at the container", taps: "at the taps" };
  function paired(online) {
    bar.hidden = !walk.code;
    const waiting = state.unsent.length ? ` ${state.unsent.length} ticks wait for the network.` : "";
    bar.textContent = `You are ${sides[walk.side] || "one of two"}. ${online ? other : "There is no network; it is joined later."}${waiting}`;
    strides.forEach((s) => {
      s.classList.toggle("mine", Boolean(walk.code) && (s.dataset.at === walk.side || s.dataset.at === "both"));
      s.classList.toggle("theirs", Boolean(walk.code) && Boolean(s.dataset.at) && s.dataset.at !== walk.side &&
        s.dataset.at !== "both");
    });
  }
  document.getElementById("pair").addEventListener("click", async () => {
    const into = document.getElementById("pair-link");
    try {
      if (!walk.code) {
        const form = new URLSearchParams({ model: body.dataset.model, letter: body.dataset.letter,
          build: body.dataset.build, task });
        const got = await fetch("/readers/walk", { method: "POST", headers: { Accept: "application/json" },
          body: form });
        const answer = await got.json();
        if (!got.ok) throw new Error(answer.error);
        walk.code = answer.code;
        walk.side = "container";
        Object.keys(state.ticked).forEach((n) => state.unsent.push({ mark: name(), step: Number(n), what: "done",
          at: state.ticked[n], side: walk.side }));
        save();
      }
      const link = `${location.origin}/readers/walk/${walk.code}`, a = document.createElement("a");
      a.href = link;
      a.textContent = link;
      const p = document.createElement("p");
      p.textContent = "Open this on the other phone; that one is at the taps. Anybody who has it can tick.";
      into.replaceChildren(p, a);
      if (navigator.share) {
        const b = document.createElement("button");
        b.type = "button";
        b.textContent = "Send it";
        b.addEventListener("click", () => navigator.share({ url: link }).catch(() => {}));
        into.append(b);
      }
      show(state.at, false);
      meet();
    } catch (err) {
      into.textContent = err.message &&
        !/fetch/i.test(err.message) ? err.message : "There is no network. Make the link when there is one.";
    }
  });
  if (walk.code) {
    if (!document.hidden) meet();
  }
  setInterval(() => { if (walk.code && !document.hidden) meet(); }, 2000);
  window.addEventListener("online", meet);

  // What did not work is kept until it is sent.
  const form = document.getElementById("report"), reported = document.getElementById("reported");
  const waiting = "reports";
  const code = () => {
    const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567", raw = crypto.getRandomValues(new Uint8Array(26));
    return [...raw].map((n) => letters[n % 32]).join("");
  };
  async function deliver() {
    const list = read(waiting) || [];
    for (const one of list) {
      try {
        const got = await fetch("/readers/report", { method: "POST", headers: { Accept: "application/json" },
          body: new URLSearchParams(one) });
        const answer = await got.json();
        if (!got.ok && got.status !== 422) throw new Error(answer.error || "");
        write(waiting, (read(waiting) || []).filter((x) => x.code !== one.code));
        if (got.ok) {
          const a = document.createElement("a");
          a.href = answer.answer;
          a.textContent = "Look here for an answer.";
          reported.replaceChildren("Sent. Thank you. ", a);
        } else reported.textContent = answer.error;
      } catch (err) {
        reported.textContent = err.message &&
          !/fetch/i.test(err.message) ? err.message : "There is no network; it is kept on this phone and sent later.";
        return;
      }
    }
  }
  form.addEventListener("submit", (e) => {
    e.preventDefault();
    const one = Object.fromEntries(new FormData(form));
    one.code = code();
    write(waiting, [...(read(waiting) || []), one]);
    form.querySelector("textarea").value = "";
    deliver();
  });
  deliver();
  window.addEventListener("online", deliver);

  show(state.at, false);
  paired(navigator.onLine);
  main.focus({ preventScroll: true });
})();
