// What can be written down at a step: a panel below it, made of what the step
// can be measured by. A value out of any sensible range is asked back at once,
// in the unit that was likely meant.
(() => {
  "use strict";
  const t = document.trial;
  if (!t) return;
  const what = t.what, us = what.units === "us";
  const h = (tag, attributes, ...children) => {
    const e = document.createElement(tag);
    Object.entries(attributes || {}).forEach(([k, v]) => {
      if (k.startsWith("on")) e.addEventListener(k.slice(2), v);
      else if (v === true) e.setAttribute(k, "");
      else if (v !== false && v !== null && v !== undefined) e.setAttribute(k, v);
    });
    e.append(...children.filter((c) => c !== null && c !== undefined));
    return e;
  };
  let count = 0;
  const own = (prefix) => { count += 1; return `${prefix}-${count}`; };
  const round = (v) => Number(v.toPrecision(3));
  const figure = (v, u) => `${round((v - (u.offset || 0)) / u.factor)} ${u.word}`;
  const value = (n, u) => n * u.factor + (u.offset || 0);
  const inside = (r, v) => v >= r.low - 1e-9 && v <= r.high + 1e-9;
  const last = (step, kind, of) => t.holds().filter((e) => (e.step || "") === step && e.kind === kind && (e.of ||
    "") === (of ||
    "")).pop();

  // A number with its unit. What is not sensible is asked back; what is answered is kept all the same.
  function number(title, range, step, kind, of, more) {
    const id = own("n"), input = h("input", { id, inputmode: "decimal", autocomplete: "off" });
    const units = h("select", { "aria-label": `Unit of ${title}` }, ...range.units.map((u, i) => h("option",
      { value: i }, u.word)));
    const says = h("div", { role: "status" }), box = h("div", {});
    const keep = (v, text) => {
      t.add(Object.assign({ step, kind, of: of || "", value: v, text: text || "" }, more ? more(v) : {}));
      input.value = "";
    };
    const take = () => {
      const n = Number(input.value.replace(",", ".").trim()), u = range.units[Number(units.value)];
      says.replaceChildren();
      if (input.value.trim() === "" || !Number.isFinite(n)) {
        says.append(h("p", { class: "wrong" }, `“${input.value}” is no number.`));
        return;
      }
      const v = value(n, u);
      if (inside(range, v)) {
        keep(v);
        return;
      }
      const likely = range.units.filter((o) => o !== u && inside(range, value(n, o)));
      says.append(h("div", { class: "asks" },
        h("p", {}, `${n} ${u.word} is not between ${figure(range.low, u)} and ${figure(range.high, u)}. ${likely.length ? "Did you mean:" : "Look again:"}`),
        ...likely.map((o) => h("button", { type: "button", onclick: () => { keep(value(n, o)); } }, `${n} ${o.word}`)),
        h("button", { type: "button", onclick: () => { keep(v, "out of range, kept as read"); } },
          `Keep ${n} ${u.word}`)));
    };
    input.addEventListener("keydown", (e) => { if (e.key === "Enter") { e.preventDefault(); take(); } });
    box.append(h("h3", {}, h("label", { for: id }, title)), h("div", { class: "row-of" }, input, units,
      h("button", { type: "button", onclick: take }, "Write it down")), says);
    box.paint = () => held(box, step, kind, of, (e) => figure(e.value, range.units[0]));
    return box;
  }

  // What holds of a thing, with a way to take it back.
  function held(box, step, kind, of, say) {
    const e = last(step, kind, of);
    let p = box.querySelector(":scope > .kept-of");
    if (!e) {
      if (p) p.remove();
      return;
    }
    if (!p) {
      p = h("p", { class: "kept-of" });
      box.append(p);
    }
    p.replaceChildren(`${say(e)} `, h("small", {}, `${e.who || ""} `), h("button", { type: "button",
      onclick: () => t.add({ kind: "gone", of: e.id }) }, "Not so"));
  }

  // A stop-watch that goes on when the page is closed: what is kept is when it began.
  function watch(step, probe) {
    const out = h("output", {}, "0:00"), b = h("button", { type: "button" }, "Start");
    const box = h("div", { class: "watch" }, h("h3", {}, "Stop-watch"), h("div", { class: "row-of" }, out, b));
    const two = (n) => String(n).padStart(2, "0");
    const span = (s) => (s >= 3600 ? `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}` : `${Math.floor(s / 60)}:${two(s % 60)}`);
    const begun = () => {
      const start = last(step, "begun", "clock"), end = last(step, "clock", "");
      return start && (!end || end.at < start.at) ? start : null;
    };
    b.addEventListener("click", () => {
      const start = begun();
      if (start) t.add({ step, kind: "clock", value: Math.round((Date.now() - start.at) / 100) / 10 });
      else t.add({ step, kind: "begun", of: "clock" });
    });
    const tick = () => {
      const start = begun();
      out.textContent = start ? span(Math.max(0, Math.round((Date.now() - start.at) / 1000))) : "0:00";
      b.textContent = start ? "Stop" : "Start";
    };
    setInterval(tick, 500);
    const typed = number("or the time as you took it", probe.range, step, "clock", "");
    typed.paint = () => {};
    box.append(h("details", {}, h("summary", {}, "I took it by another watch"), typed));
    box.paint = () => {
      tick();
      held(box, step, "clock", "", (e) => span(Math.round(e.value)));
    };
    return box;
  }

  function jug(step, probe) {
    const unit = probe.range.units[0], size = what.jug || unit.factor;
    let empty = 0, left = 1;
    const n = h("output", {}, "0");
    const stands = () => { // what was read here, else what was read last
      const e = last(step, "jug", "") || t.holds().filter((x) => x.kind === "jug").pop();
      empty = e ? Math.floor(e.value / size + 1e-9) : 0;
      left = e ? 1 - (e.value / size - empty) : 1;
      n.textContent = String(empty);
    };
    stands();
    const keep = () => t.add({ step, kind: "jug", value: Math.round((empty * size +
      (1 - left) * size) * 1000) / 1000 });
    const drawn = document.drawn.jug(size, unit, left, (share) => { left = share; keep(); });
    const change = (by) => () => { empty = Math.max(0, empty + by); keep(); };
    const box = h("div", {}, h("h3", {}, "Tap where the jug’s level stands"), h("div", { class: "drawn-jug" }, drawn,
      h("div", {}, h("p", {}, "Jugs emptied before this one: ", n), h("div", { class: "row-of" },
        h("button", { type: "button", "aria-label": "One jug fewer", onclick: change(-1) }, "−"),
        h("button", { type: "button", "aria-label": "One jug more", onclick: change(1) }, "+")))));
    box.paint = () => {
      stands();
      drawn.show(left);
      held(box, step, "jug", "", (e) => `${figure(e.value, unit)} drawn so far.`);
    };
    return box;
  }

  function strip(step, probe) {
    const fields = h("div", { class: "fields-of" }, ...what.fields.map((f) => h("button", { type: "button",
      "data-field": f,
      onclick: () => t.add({ step, kind: "strip", of: probe.of, value: f }) }, `${f}`)));
    const box = h("div", {}, h("h3", {}, `Test strip${probe.name ? `, ${probe.name}` : ""}: which field, mg/L?`),
      fields);
    box.paint = () => {
      const e = last(step, "strip", probe.of);
      fields.querySelectorAll("button").forEach((b) => b.setAttribute("aria-pressed", String(Boolean(e) &&
        e.value === Number(b.dataset.field))));
      held(box, step, "strip", probe.of, (x) => `${x.value} mg/L.`);
    };
    return box;
  }

  const titles = { level: "Level of", caught: "Caught below", refills: "Fillings until it came clear" };
  function probe(step, p) {
    if (p.kind === "clock") return watch(step, p);
    if (p.kind === "jug") return jug(step, p);
    if (p.kind === "strip") return strip(step, p);
    return number(`${titles[p.kind]} ${p.name || ""}`.trim(), p.range, step, p.kind, p.of);
  }

  function check(title, step, kind, of) {
    const input = h("input", { type: "checkbox" });
    input.addEventListener("change", () => {
      const e = last(step, kind, of);
      if (input.checked && !e) t.add({ step, kind, of: of || "", value: 1 });
      else if (!input.checked && e) t.add({ kind: "gone", of: e.id });
    });
    const box = h("label", { class: "check" }, input, h("span", {}, title));
    box.paint = () => { input.checked = Boolean(last(step, kind, of)); };
    return box;
  }

  function choose(title, step, kind, of, list) {
    const buttons = list.map(([name, v, text]) => h("button", { type: "button", "data-value": v,
      onclick: () => t.add({ step, kind, of: of || "", value: v, text: text || "" }) }, name));
    const box = h("div", {}, h("h3", {}, title), h("div", { class: "fields-of" }, ...buttons));
    box.paint = () => {
      const e = last(step, kind, of);
      buttons.forEach((b) => b.setAttribute("aria-pressed", String(Boolean(e) &&
        e.value === Number(b.dataset.value))));
    };
    return box;
  }

  function anode(step, part) {
    const used = (d) => Math.min(1, Math.max(0,
      1 - (d * d - part.core * part.core) / (part.new * part.new - part.core * part.core)));
    const eye = [0, 0.25, 0.5, 0.75, 1].map((share) => {
      const b = h("button", { type: "button", onclick: () => t.add({ step, kind: "anode", of: part.id, value: share,
        text: "by eye" }) },
        document.drawn.rod(share), `${share * 100} %`);
      return b;
    });
    const by = number("Thickness of the rod now", what.ranges[`diameter ${part.id}`] || { low: 0, high: 99,
      units: [{ word: "mm", factor: 1 }] },
      step, "anode", part.id, (mm) => ({ value: used(mm), text: `by diameter, ${round(mm)} mm` }));
    by.paint = () => {};
    const box = h("div", {}, h("h3", {}, `Anode of ${part.name}: how much is used?`), h("div", { class: "anodes" },
      ...eye), by,
      weighed(step, part));
    box.paint = () => held(box, step, "anode", part.id, (e) => `${Math.round(e.value * 100)} % used, ${e.text}.`);
    return box;
  }

  // By three weights: now, when it was new, and of the core with its plug.
  function weighed(step, part) {
    const fields = ["now", "new", "core and plug alone"].map((name) => {
      const id = own("a");
      return [h("label", { for: id }, name), h("input", { id, inputmode: "decimal", autocomplete: "off" })];
    });
    const says = h("p", { role: "status", class: "wrong" });
    const take = () => {
      const [now, fresh, core] = fields.map(([, f]) => Number(f.value.replace(",", ".").trim() || "x"));
      if (![now, fresh, core].every(Number.isFinite)) says.textContent = "Three weights, all in the same unit.";
      else if (!(core < fresh) || now > fresh || now < core) {
        says.textContent = `It weighs at most what it weighed when new (${fresh}), and at least its core (${core}): is one in another unit?`;
      } else {
        says.textContent = "";
        t.add({ step, kind: "anode", of: part.id, value: (fresh - now) / (fresh - core),
          text: `by weight, ${now} of ${fresh}` });
      }
    };
    return h("details", {}, h("summary", {}, "By weight"), h("div", { class: "row-of" }, ...fields.flat()), says,
      h("button", { type: "button", onclick: take }, "Write it down"));
  }

  function words(title, label, step, kind) {
    const id = own("w"), text = h("textarea", { id, rows: "3", maxlength: "1200" }), list = h("div", {});
    const box = h("details", {}, h("summary", {}, title), h("label", { for: id }, label), text,
      h("button", { type: "button", onclick: () => {
        if (!text.value.trim()) return;
        t.add({ step, kind, text: text.value.trim() });
        text.value = "";
      } }, "Write it down"), list);
    box.paint = () => list.replaceChildren(...t.holds().filter((e) => (e.step || "") === step &&
      e.kind === kind).map((e) =>
      h("p", { class: "kept-of" }, `${e.text} `, h("small", {}, `${e.who || ""} `), h("button", { type: "button",
        onclick: () => t.add({ kind: "gone", of: e.id }) }, "Not so"))));
    return box;
  }

  // A picture that is still on the phone is shown from its own bytes.
  const asText = (blob) => new Promise((resolve) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result);
    reader.onerror = () => resolve("");
    reader.readAsDataURL(blob);
  });

  // A photograph is made small before it is kept: it waits on the phone for the network.
  async function small(file) {
    const picture = await createImageBitmap(file), side = 1600;
    const by = Math.min(1, side / Math.max(picture.width, picture.height));
    const canvas = h("canvas", { width: Math.round(picture.width * by), height: Math.round(picture.height * by) });
    canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
    return new Promise((resolve) => { canvas.toBlob(resolve, "image/jpeg", 0.85); });
  }
  function photo(step) {
    const id = own("p"), input = h("input", { id, type: "file", accept: "image/*", capture: "environment" }),
      shots = h("div", {
      class: "shots" }), says = h("p", { role: "status" });
    input.addEventListener("change", async () => {
      const file = input.files[0];
      if (!file) return;
      try {
        await t.photo(await small(file), step, "");
        says.textContent = "";
      } catch {
        says.textContent = "This is no picture that the phone can read.";
      }
      input.value = "";
    });
    const box = h("details", {}, h("summary", {}, "Photograph"), h("label", { for: id }, "Take or choose one"), input,
      says, shots);
    box.paint = async () => {
      const list = t.holds().filter((e) => (e.step || "") === step && e.kind === "photo");
      const images = await Promise.all(list.map(async (e) => {
        const blob = await t.kindOfPhoto(e.id);
        return h("img", { src: blob ? await asText(blob) : `/trials/${t.code}/photo/${e.id}`,
          alt: "Photograph of this step" });
      }));
      shots.replaceChildren(...images);
    };
    return box;
  }

  function pump(step, p) {
    const box = h("details", {}, h("summary", {}, `${p.name}: warmth, cut-outs, rests`));
    const warm = choose("How warm is it?", step, "warm", p.id, [["cold", 0], ["hand-warm", 1], ["hot", 2],
      ["too hot to touch", 3]]);
    const out = h("button", { type: "button", onclick: () => t.add({ step, kind: "cut-out", of: p.id }) },
      "It stopped by itself");
    const rest = number("It rested for", what.ranges.rest, step, "rest", p.id);
    const times = h("p", { class: "kept-of" });
    rest.paint = () => {};
    box.append(warm, h("div", { class: "row-of" }, out), times, rest);
    box.paint = () => {
      warm.paint();
      const n = t.holds().filter((e) => e.step === step && e.kind === "cut-out" && e.of === p.id).length;
      const s = t.holds().filter((e) => e.step === step && e.kind === "rest" && e.of === p.id);
      times.textContent = [n ? `Stopped by itself ${n} time${n > 1 ? "s" : ""}.` : "",
        s.length ? `Rested ${s.map((e) => figure(e.value, { word: "min", factor: 60 })).join(", ")}.` : ""].join(" ").trim();
    };
    return box;
  }

  // What the trial is like, before its first step.
  function conditions() {
    const list = (what.tanks || []).map((tank) => number(`${tank.name} is full to`, what.ranges["start-level"], "",
      "start-level", tank.id));
    if (what.hose) {
      list.push(number("The hose gives (a marked bucket, by the watch)", what.ranges["hose-flow"], "", "hose-flow",
        ""));
    }
    if (what.steps.some((s) => (s.probes || []).some((p) => p.kind === "strip"))) {
      list.push(number("Chlorine of the supply", what.ranges.chlorine, "", "chlorine", ""));
    }
    if (what.steps.some((s) => (s.probes || []).some((p) => p.kind === "jug"))) {
      list.push(choose("Does somebody stand at the low points?", "", "helper", "", [["yes", 1], ["no, I am alone",
        0]]));
    }
    list.push(number("It is so warm outside", what.ranges.outside, "", "outside", ""));
    return list;
  }

  function at(i) {
    const panel = h("div", { class: "panel" });
    const step = what.steps[i];
    let list = [];
    if (i < 0) {
      panel.append(h("h3", {}, "What it is like here"), h("p", { class: "by" },
        "What you don’t know, leave out: it is then not taken for known."));
      list = conditions();
    } else {
      (step.drains || []).forEach((d) => list.push(check(`${d.name} was not opened`, step.key, "shut", d.id)));
      (step.probes || []).forEach((p) => list.push(probe(step.key, p)));
      (step.anodes || []).forEach((a) => list.push(anode(step.key, a)));
      (step.pumps || []).forEach((p) => list.push(pump(step.key, p)));
      if ((step.probes || []).some((p) => p.kind === "strip")) {
        list.push(choose("Could you smell it?", step.key, "smelt", "", [["yes", 1, t.who], ["no, by the strip", 0,
          t.who]]));
      }
      list.push(words("It could not be done as written", "What did work instead?", step.key, "instead"));
      list.push(check("This step was left out", step.key, "left-out", ""));
    }
    const key = step ? step.key : "";
    const other = h("details", {}, h("summary", {}, "Pressure, temperature"));
    const gauge = number("Pressure", what.ranges.pressure, key, "pressure", ""), heat = number("Temperature",
      what.ranges.temperature, key,
      "temperature", "");
    [gauge, heat].forEach((x) => { x.paint = () => {}; other.append(x); });
    const read = h("p", { class: "kept-of" });
    other.append(read);
    other.paint = () => {
      read.textContent = t.holds().filter((e) => (e.step || "") === key && (e.kind === "pressure" ||
        e.kind === "temperature"))
        .map((e) => figure(e.value, what.ranges[e.kind].units[0])).join(", ");
    };
    list.push(other, photo(key), words("Remark", "What you saw", key, "note"));
    panel.append(...list);
    panel.paint = () => list.forEach((x) => x.paint && x.paint());
    return panel;
  }
  document.panel = { at, us };
})();
