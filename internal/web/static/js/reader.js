// Every page of a reader: size and light as chosen, when the guide was last
// checked, what is warned of since, and pages kept for when there is no network.
(() => {
  "use strict";
  const kept = (key) => { try { return localStorage.getItem(key); } catch { return null; } };
  const keep = (key, value) => { try { localStorage.setItem(key,
    value); } catch { /* a private window keeps nothing */ } };
  const root = document.documentElement;

  const look = (v) => { if (v) root.dataset.look = v; else delete root.dataset.look; };
  const size = (v) => root.style.setProperty("--size", v);
  look(kept("look") || "");
  size(Number(kept("size")) || 1);
  document.addEventListener("click", (e) => {
    const b = e.target.closest("button, a");
    if (!b) return;
    if (b.dataset.look !== undefined) {
      look(b.dataset.look);
      keep("look", b.dataset.look);
    }
    if (b.dataset.size) {
      const next = Math.min(2, Math.max(0.8, (Number(kept("size")) || 1) + 0.15 * Number(b.dataset.size)));
      size(next);
      keep("size", String(next));
    }
    if (b.dataset.print !== undefined) window.print();
    if (b.dataset.units) keep("units", b.dataset.units);
  });

  // The units that were chosen once are chosen everywhere; without a network the page that is kept will do.
  const other = document.querySelector(`[data-units="${kept("units") === "si" ? "si" : kept("units") === "us" ? "us" : "none"}"]`);
  if (other && navigator.onLine) location.replace(other.href + location.hash);

  // When it was checked, in the reader's own time.
  const when = (text) => new Date(text).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
  function checked(at, offline) {
    document.querySelectorAll("[data-checked]").forEach((el) => {
      const last = at || el.dataset.checked;
      el.textContent = last ? `Last checked ${when(last)}${offline ? "; there is no network now" : ""}.` : "";
    });
  }

  // What stands around a guide is asked for anew: a page that was kept is older than it.
  const box = document.getElementById("envelope");
  const often = 3000; // milliseconds: no oftener while it is answered
  let answered = 0, later = 0;
  async function ask() {
    if (!box || document.hidden || later) return;
    const wait = answered + often - Date.now();
    if (wait > 0) { // it was answered just now: once more in a moment
      later = setTimeout(() => { later = 0; ask(); }, wait);
      return;
    }
    const key = `envelope ${box.dataset.at}`;
    try {
      const got = await fetch(box.dataset.at, { cache: "no-store" });
      if (!got.ok) return;
      answered = Date.now();
      const now = await got.json();
      keep(key, JSON.stringify({ checked: now.checked }));
      checked(now.checked, false);
      if (now.stamp !== box.dataset.stamp) warn(now);
    } catch {
      const last = JSON.parse(kept(key) || "{}");
      checked(last.checked, true);
    }
  }
  function warn(now) {
    box.dataset.stamp = now.stamp;
    const say = [];
    if (now.state === "withdrawn") say.push("This guide is withdrawn. Do not follow it.");
    if (now.notice) say.push(now.notice);
    if (now.dangers) {
      say.push(`Some of this is no longer right and can do harm. Do not follow what is said under: ${now.dangers.join("; ")}. ` +
        "Ask your dealer until a new revision is out.");
    }
    box.replaceChildren();
    say.forEach((text) => {
      const p = document.createElement("p");
      p.className = "alarm";
      p.setAttribute("role", "alert");
      p.textContent = text;
      box.append(p);
    });
    if (now.newer) {
      const p = document.createElement("p"), a = document.createElement("a");
      p.className = "newer";
      a.href = now.newer;
      a.textContent = "A newer revision has replaced this one: open it.";
      p.append(a);
      box.append(p);
    }
  }
  checked("", false);
  ask();
  // A phone does not always tell that there is a network again: each step asks too.
  window.addEventListener("online", ask);
  document.addEventListener("visibilitychange", ask);
  document.addEventListener("reader:step", ask);
  setInterval(ask, 20 * often);

  // Where was I: procedures of this guide that were begun and not ended.
  const base = document.body.dataset.base;
  const was = document.getElementById("was");
  if (was && base) {
    const guide = base.slice(0, base.lastIndexOf("/"));
    document.querySelectorAll(".tasks a").forEach((a) => {
      const state = JSON.parse(kept(`walk ${guide} ${a.getAttribute("href").split("/do/")[1]}`) || "null");
      if (!state || !state.at || state.ended) return;
      const copy = a.cloneNode(true);
      copy.querySelector("small").textContent = `You were at step ${state.at}. Go on there.`;
      const list = was.querySelector("ul") || was.appendChild(Object.assign(document.createElement("ul"),
        { className: "choices" }));
      const item = document.createElement("li");
      item.append(copy);
      list.append(item);
      was.hidden = false;
    });
    if (!was.hidden) was.prepend(Object.assign(document.createElement("h2"), { textContent: "Where was I?" }));
  }

  // Pages are kept once a guide was opened.
  const said = document.getElementById("kept");
  if ("serviceWorker" in navigator && base) {
    navigator.serviceWorker.register("/read/worker.js",
      { scope: "/read" }).then(() => navigator.serviceWorker.ready).then((reg) => {
      const assets = [...document.querySelectorAll("link[href], script[src]")].map((el) => el.href || el.src)
        .map((at) => new URL(at)).filter((at) => at.origin === location.origin).map((at) => at.pathname + at.search);
      reg.active.postMessage({ keep: `${base}/keep.json`, base, also: [...assets, location.pathname] });
    }).catch(() => { /* no such thing here: the pages need a network then */ });
    navigator.serviceWorker.addEventListener("message", (e) => {
      if (!said || e.data.base !== base) return;
      said.textContent = e.data.done < e.data.of ? `Keeping this guide on the phone: ${e.data.done} of ${e.data.of}.`
        : "This guide is kept on this phone; it opens without a network.";
      document.body.dataset.kept = e.data.done < e.data.of ? "" : "yes";
    });
  }
})();
