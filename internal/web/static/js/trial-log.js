// What is written down in a trial: kept on this phone first, sent when there is
// a network, joined with what others wrote. Entries never change and have names
// of their own, so that nothing is lost or doubled however often it is sent.
(() => {
  "use strict";
  const body = document.body, code = body.dataset.code, who = body.dataset.who;
  if (!code) return;
  const key = `trial ${code}`;
  const read = () => { try { return JSON.parse(localStorage.getItem(key) || "null"); } catch { return null; } };
  const kept = Object.assign({ at: 0, entries: [], unsent: [] }, read() || {});
  let full = false;
  const save = () => {
    try {
      localStorage.setItem(key, JSON.stringify(kept));
      full = false;
    } catch { full = true; }
  };
  const changed = () => document.dispatchEvent(new Event("trial:changed"));
  const name = () => (crypto.randomUUID ? crypto.randomUUID() : `${Date.now()}-${Math.random().toString(36).slice(2, 14)}`);

  // As the server joins: by time, then by name, each once.
  const order = (a, b) => a.at - b.at || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
  function join(list) {
    const all = new Map(kept.entries.map((e) => [e.id, e]));
    list.forEach((e) => all.set(e.id, e));
    kept.entries = [...all.values()].sort(order);
  }
  const several = ["rest", "cut-out", "photo", "instead", "note", "pressure", "temperature"];
  const slot = (e) => [e.step || "", e.kind === "undone" ? "done" : e.kind, e.of || "",
    several.includes(e.kind) ? e.id : ""].join("\n");
  function holds() {
    const gone = new Set(kept.entries.filter((e) => e.kind === "gone").map((e) => e.of));
    const last = new Map();
    kept.entries.forEach((e) => { if (e.kind !== "gone" && !gone.has(e.id)) last.set(slot(e), e); });
    return [...last.values()].filter((e) => e.kind !== "undone").sort(order);
  }

  function add(entry) {
    const e = Object.assign({ id: name(), at: Date.now(), who }, entry);
    join([e]);
    kept.unsent.push(e.id);
    save();
    changed();
    send();
    return e;
  }

  // Sends what waits, and fetches what others wrote.
  let going = false, online = navigator.onLine, wrong = "";
  async function send() {
    if (going) return;
    going = true;
    const list = kept.entries.filter((e) => kept.unsent.includes(e.id)).slice(0, 200);
    try {
      const got = await fetch(`/trials/${code}/entries`, list.length
        ? { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" },
          body: JSON.stringify({ entries: list }) } : { headers: { Accept: "application/json" } });
      online = true;
      if (got.redirected || got.status === 401 || got.status === 403) throw new Error("sign in");
      const answer = await got.json();
      if (!got.ok) throw new Error(answer.error || String(got.status));
      const sent = new Set(list.map((e) => e.id));
      kept.unsent = kept.unsent.filter((id) => !sent.has(id));
      const before = kept.entries.length;
      join(answer.entries || []);
      wrong = "";
      save();
      if (sent.size || kept.entries.length !== before) changed();
      await photos();
    } catch (err) {
      if (err instanceof TypeError) online = false;
      else wrong = err.message;
    }
    going = false;
    tell();
    if (kept.unsent.length && online && !wrong) setTimeout(send, 300);
  }

  // Photographs wait in a store of their own: they are large.
  const opened = new Promise((resolve) => {
    const ask = indexedDB.open("trial-photos", 1);
    ask.onupgradeneeded = () => ask.result.createObjectStore("photos");
    ask.onsuccess = () => resolve(ask.result);
    ask.onerror = () => resolve(null);
  });
  const run = async (mode, work) => {
    const db = await opened;
    if (!db) return null;
    return new Promise((resolve) => {
      const ask = work(db.transaction("photos", mode).objectStore("photos"));
      ask.onsuccess = () => resolve(ask.result);
      ask.onerror = () => resolve(null);
    });
  };
  let waiting = 0;
  async function photos() {
    const keys = ((await run("readonly", (s) => s.getAllKeys())) || []).filter((k) => k.startsWith(`${code} `));
    waiting = keys.length;
    for (const k of keys) {
      const form = new FormData();
      form.append("id", k.slice(code.length + 1));
      form.append("file", await run("readonly", (s) => s.get(k)), "photo.jpg");
      const got = await fetch(`/trials/${code}/photo`, { method: "POST", headers: { Accept: "application/json" },
        body: form });
      if (!got.ok && got.status !== 422) throw new Error("a photograph was not taken");
      await run("readwrite", (s) => s.delete(k));
      waiting -= 1;
    }
  }
  async function photo(blob, step, text) {
    const id = name();
    await run("readwrite", (s) => s.put(blob, `${code} ${id}`));
    waiting += 1;
    add({ id, step, kind: "photo", text });
  }
  const kindOfPhoto = async (id) => run("readonly", (s) => s.get(`${code} ${id}`));

  const told = document.getElementById("told");
  function tell() {
    const n = kept.unsent.length + waiting;
    told.classList.toggle("waits", n > 0 || !online);
    told.classList.toggle("wrong", Boolean(wrong) || full);
    const others = new Set(kept.entries.map((e) => e.who).filter((w) => w && w !== who));
    const beside = others.size ? ` ${[...others].join(" and ")} ${others.size > 1 ? "write" : "writes"} here too.` : "";
    if (full) told.textContent = "This phone is full: what you write now is lost when the page is closed. Make room.";
    else if (wrong === "sign in") {
      const a = document.createElement("a");
      a.href = `/sign-in?next=${encodeURIComponent(location.pathname)}`;
      a.textContent = "Sign in on this phone";
      told.replaceChildren("You are signed out. ", a, `; ${n} wait here and are sent then.`);
    }
    else if (wrong) told.textContent = `It was not taken: ${wrong} ${n} wait on this phone.`;
    else if (!online) told.textContent = n ? `No network: ${n} wait on this phone and are sent later.` : "No network. Write on; it is kept on this phone.";
    else told.textContent = n ? `${n} are being sent.` : `All is kept.${beside}`;
  }

  document.trial = { code, who, kept, add, holds, save, send, photo, kindOfPhoto,
    what: JSON.parse(document.getElementById("trial-steps").textContent) };
  setInterval(() => { if (!document.hidden) send(); }, 3000);
  window.addEventListener("online", send);
  window.addEventListener("offline", () => { online = false; tell(); });
  document.addEventListener("visibilitychange", () => { if (!document.hidden) send(); });
  document.addEventListener("trial:changed", tell);
  if ("serviceWorker" in navigator) {
    navigator.serviceWorker.register("/trials/worker.js",
      { scope: "/trials/" }).then(() => navigator.serviceWorker.ready)
      .then((r) => r.active && r.active.postMessage({ here: location.pathname })).catch(() => {});
  }
  photos().catch(() => {});
  tell();
  send();
})();
