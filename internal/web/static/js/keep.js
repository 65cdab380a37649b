// Nothing that was done is lost: a change that could not be saved (the server or the
// database away, the session over, no answer in time) is kept, seen at its field, told in a
// strip, and sent again until it is answered. Signing in again is asked over the page.
(() => {
  "use strict";
  const person = () => document.body.dataset.person || "";
  const model = (path) => (/^\/models\/[^/?]+/.exec(path) || [""])[0];
  const shelf = "unsaved"; // what outlives the page, in this tab

  // What waits: { word, path, target, values, what, value, why, stuck }, the oldest first. The
  // fields of each, as [element, value], are the page's own.
  let waiting = [];
  const fields = new Map(), made = new Map(); // made is whom to tell of a change without a field
  const store = () => sessionStorage.setItem(shelf, JSON.stringify({ person: person(), waiting }));
  const find = (word) => waiting.find((w) => w.word === word);

  // Each change has a word of its own, by which the server knows it when it comes again.
  const hex = (b) => b.toString(16).padStart(2, "0");
  const newWord = () => [...crypto.getRandomValues(new Uint8Array(16))].map(hex).join("");
  document.addEventListener("htmx:configRequest", (e) => {
    const { verb, headers } = e.detail;
    if (verb !== "get" && !headers["X-Request"]) headers["X-Request"] = newWord();
  });

  // One press of a key or a button is one request: the same form with the same values is not
  // sent while it is on its way, unless pressing it twice means twice.
  const underway = new Map();
  const texts = (data) => [...data].filter(([, v]) => typeof v === "string");
  const content = (form) => new URLSearchParams(texts(new FormData(form))).toString();
  document.addEventListener("htmx:confirm", (e) => {
    const { elt, triggeringEvent: by } = e.detail;
    if (!by || by.type !== "submit" || !elt.matches("form") || elt.matches("[data-again]")) return;
    const was = underway.get(elt), now = content(elt);
    if (was && was.by !== by && was.now === now) e.preventDefault();
    else underway.set(elt, { by, now }); // one that waited in a queue comes here twice
  });
  for (const event of ["htmx:afterRequest", "htmx:validation:halted"]) {
    document.addEventListener(event, (e) => underway.delete(e.detail.elt || e.target));
  }
  document.addEventListener("keydown", (e) => {
    if (e.repeat && (e.key === "Enter" || e.key === " ") && e.target.matches("button, summary, a")) e.preventDefault();
  }, true);

  // What it is that was not saved, in the words that stand at its field.
  function said(elt, ask, own) {
    if (own.length === 1) {
      const el = own[0][0], label = el.labels && el.labels[0];
      const name = el.getAttribute("aria-label") || label && label.firstChild.textContent.trim() || el.name;
      const of = /\/edit\/(?:part|line)\/([^/?]+)/.exec(ask.path);
      const whole = of && !name.includes(" of ") ? `${name} of ${decodeURIComponent(of[1])}` : name;
      return [whole, el.type === "checkbox" ? (el.checked ? "yes" : "no") : el.value];
    }
    const by = ask.triggeringEvent && ask.triggeringEvent.submitter || elt.querySelector("button") || elt;
    return [by.getAttribute("aria-label") || by.title || by.textContent.trim() || "a change", ""];
  }

  const reasons = { 0: "the server does not answer", 401: "you are signed out", 403: "this is not for your role",
    404: "there is no such model any more", 413: "it is too large", 429: "there were too many requests",
    503: "the database or the server is away" };
  const reason = (status) => reasons[status] || "something went wrong at the server";
  const passing = (status) => !status || status === 401 || status === 408 || status === 429 || status >= 500;

  // A request that failed: a change waits here, a page that was asked for is asked for again
  // once somebody has signed in.
  let missed = null;
  function failed(e) {
    const { elt, xhr, requestConfig: ask, target } = e.detail, status = xhr ? xhr.status : 0;
    if (status === 401) askWho();
    if (ask.verb === "get") {
      if (status === 401) missed = { path: ask.path, target: target && target.id };
      else if (!document.querySelector(".notice.unsent")) told(`Not shown: ${reason(status)}. Try it again in a moment.`);
      tell();
      return;
    }
    const old = find(ask.headers["X-Request"]), own = xhr.fields || [];
    const entry = old || { word: ask.headers["X-Request"], path: ask.path, target: target ? target.id : "" };
    entry.why = reason(status);
    entry.stuck = !passing(status);
    if (!old) {
      entry.values = texts(ask.formData);
      [entry.what, entry.value] = said(elt, ask, own);
      waiting.push(entry);
      fields.set(entry.word, own);
      for (const [el] of own) el.dataset.unsaved = entry.word;
    }
    store();
    if (!sending) later();
    tell();
  }
  const failures = ["htmx:sendError", "htmx:responseError", "htmx:timeout"];
  for (const event of failures) document.addEventListener(event, failed);

  // What is typed anew takes the place of what waits of the same field.
  document.addEventListener("input", (e) => { if (e.target.dataset) delete e.target.dataset.unsaved; }, true);
  const named = (values) => values.map(([name]) => name).filter((name) => /^f\./.test(name)).join(" ");
  document.addEventListener("htmx:beforeSend", (e) => {
    const { requestConfig: ask, xhr } = e.detail, old = find(ask.headers["X-Request"]);
    if (old) {
      xhr.fields = fields.get(old.word) || [];
      return;
    }
    const names = ask.verb === "get" ? "" : named([...ask.formData.entries()]);
    if (names) drop((w) => w.path === ask.path && named(w.values) === names);
  });
  function drop(which) {
    for (const w of waiting.filter(which)) {
      for (const [el] of fields.get(w.word) || []) if (el.dataset.unsaved === w.word) delete el.dataset.unsaved;
      fields.delete(w.word);
    }
    waiting = waiting.filter((w) => !which(w));
    store();
    tell();
  }

  // An answer of the server, also one that refuses a value, ends the waiting.
  document.addEventListener("htmx:beforeSwap", (e) => {
    const { requestConfig: ask, xhr } = e.detail;
    if (!ask || !e.detail.shouldSwap && xhr.status !== 204) return;
    if (ask.verb !== "get") drop((w) => w.word === ask.headers["X-Request"]);
    if (waiting.length) setTimeout(flush, 0); // it answers again
  });

  // Sending again, one after the other, later and later.
  let timer = 0, wait = 1, due = 0, sending = false;
  function later() {
    clearTimeout(timer);
    if (!waiting.some((w) => !w.stuck)) return;
    due = Date.now() + wait * 1000;
    timer = setTimeout(flush, wait * 1000);
    wait = Math.min(wait * 2, 15);
  }
  async function flush() {
    if (sending || document.querySelector("dialog.who[open]")) return;
    sending = true;
    try {
      for (let next; (next = waiting.find((w) => !w.stuck));) {
        await send(next);
        if (find(next.word) && !next.stuck) break; // it failed again
        wait = 1;
      }
    } finally {
      sending = false;
    }
    if (waiting.length) later();
    tell();
  }
  async function send(w) {
    const target = w.target && document.getElementById(w.target);
    const headers = { "X-Request": w.word };
    if (target && model(w.path) === model(location.pathname)) {
      const data = new FormData();
      const shown = document.querySelector("#main .inspect [name=part]"); // the answer shows what is looked at now
      for (const [k, v] of w.values) data.append(k, k === "part" && shown ? shown.value : v);
      await htmx.ajax("POST", w.path, { source: target, target, swap: "patch", values: data, headers }).catch(() => {});
      return;
    }
    const resp = await fetch(w.path, { method: "POST", headers: Object.assign({ "HX-Request": "true" }, headers),
      body: new URLSearchParams(w.values) }).catch(() => null);
    const status = resp ? resp.status : 0;
    if (status === 401) askWho();
    if (resp && resp.ok) {
      drop((x) => x === w);
      if (made.has(w.word)) made.get(w.word)();
      return;
    }
    w.stuck = !passing(status);
    w.why = status === 422 ? "the model does not take it as it is now" : reason(status);
    store();
  }
  addEventListener("online", flush);

  // A change that another module makes without a form; it hears when it was made.
  document.addEventListener("keep:send", (e) => {
    const { path, values, what, done } = e.detail, word = newWord();
    waiting.push({ word, path, target: "", values: Object.entries(values), what, value: "" });
    made.set(word, done);
    store();
    flush();
  });

  // The strip that says what is not saved.
  function line(w) {
    const li = document.createElement("li"), b = document.createElement("b");
    b.textContent = w.what;
    li.append(b, (w.value ? `: ${w.value}` : "") + (w.stuck ? ` (${w.why}) ` : ""));
    if (w.stuck) {
      const away = document.createElement("button");
      away.type = "button";
      away.className = "btn btn-sm turn";
      away.textContent = "Let it go";
      away.addEventListener("click", () => drop((x) => x === w));
      li.append(away);
    }
    return li;
  }
  let clock = 0;
  function tell() {
    let strip = document.getElementById("unsaved");
    if (!strip) return;
    clearTimeout(clock);
    strip.hidden = waiting.length === 0;
    if (!waiting.length) {
      strip.replaceChildren();
      return;
    }
    const going = waiting.filter((w) => !w.stuck);
    const words = document.createElement("p"), list = document.createElement("ul");
    const many = waiting.length === 1 ? "1 change is" : `${waiting.length} changes are`;
    const head = document.createElement("b");
    head.textContent = `${many} not saved yet`;
    words.append(head);
    if (going.length) {
      const left = Math.max(0, Math.ceil((due - Date.now()) / 1000)), out = going[0].why === reasons[401];
      const when = sending ? "It is being sent again. " : `It is sent again in ${left} s. `;
      words.append(`: ${going[0].why}. ${out ? "" : when}`);
      const now = document.createElement("button");
      now.type = "button";
      now.className = "btn btn-sm main";
      now.textContent = out ? "Sign in" : "Send again now";
      now.addEventListener("click", () => { if (out) askWho(); else flush(); });
      words.append(now);
      clock = setTimeout(tell, 1000);
    } else words.append(".");
    list.append(...waiting.map(line));
    strip.replaceChildren(words, list);
  }

  // Who is it? In a dialog over the page; the page goes on where it was.
  function askWho() {
    const box = document.querySelector("dialog.who");
    if (box && !box.open) box.showModal();
  }
  document.addEventListener("submit", async (e) => {
    const form = e.target.closest("dialog.who form");
    if (!form) return;
    e.preventDefault();
    const wrong = form.querySelector("[role=alert]"), box = form.closest("dialog");
    const resp = await fetch("/sign-in", { method: "POST", headers: { "X-Over": "yes" },
      body: new URLSearchParams(new FormData(form)) }).catch(() => null);
    if (!resp || !resp.ok) {
      const judged = resp && resp.status < 500;
      wrong.textContent = judged ? await resp.text() : "The server does not answer. Try again in a moment.";
      return;
    }
    wrong.textContent = "";
    form.reset();
    box.close();
    wait = 1;
    const again = missed;
    missed = null;
    await flush();
    if (!again) return;
    await htmx.ajax("GET", again.path, { target: again.target ? "#" + again.target : "#main", swap: "patch" });
  }, true);

  // A form that leaves the page is sent once, and only when it can be taken: the page stays
  // with what was typed while the server is away or asks who it is.
  let leaving = false, granted = null; // the form that may go
  const stays = () => { leaving = false; };
  document.addEventListener("submit", async (e) => {
    const form = e.target;
    if (e.defaultPrevented || form.method !== "post" || form.hasAttribute("hx-post") || !person()) return;
    if (granted === form) {
      granted = null;
      setTimeout(stays, 10_000); // it was stopped, or brought a file
      return;
    }
    e.preventDefault();
    if (leaving) return; // one press is one request
    leaving = true;
    const by = e.submitter, resp = await fetch("/me/here").catch(() => null);
    if (resp && resp.status === 204) {
      granted = form;
      form.requestSubmit(by || undefined);
      return;
    }
    stays();
    if (resp && resp.status === 401) askWho();
    told(`Not sent: ${reason(resp ? resp.status : 0)}. What you typed is still here.`).classList.add("unsent");
  });
  addEventListener("pageshow", stays);

  // A form that says so sends what was changed only: what was not is neither set nor rounded.
  document.addEventListener("formdata", (e) => {
    if (e.target.dataset.sends !== "changed") return;
    for (const el of e.target.elements) {
      const was = e.formData.get(`was.${el.name}`);
      if (was === null || el.value !== was) continue;
      for (const name of [el.name, `was.${el.name}`, `v.${el.name}`]) e.formData.delete(name);
    }
  });

  // What failed and is no change is told over the page.
  function told(text) {
    const note = document.createElement("div"), words = document.createElement("p");
    const close = document.createElement("button");
    note.className = "notice bad";
    note.setAttribute("role", "status");
    words.textContent = text;
    Object.assign(close, { className: "close", type: "button", textContent: "\u00d7" });
    close.dataset.dismiss = ".notice";
    close.setAttribute("aria-label", "Close this notice");
    for (const old of document.querySelectorAll(".notice:not([role=alert])")) old.remove();
    note.append(close, words);
    document.getElementById("main").append(note);
    return note;
  }
  // Who leaves before all is saved is asked; what waits outlives the page all the same.
  addEventListener("beforeunload", (e) => { if (waiting.length && !leaving) e.preventDefault(); });
  document.addEventListener("DOMContentLoaded", () => {
    const kept = JSON.parse(sessionStorage.getItem(shelf) || "null");
    if (!kept || kept.person !== person()) return;
    waiting = kept.waiting;
    if (waiting.length) flush();
  });
})();
