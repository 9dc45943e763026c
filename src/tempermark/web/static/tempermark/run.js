// The run strip: what to do next at the press, a large countdown, one tap or key for each act.
"use strict";

const LOW_S = 3;
const EARLY_S = 2;
// Where the clock's offset is kept, and how quick an answer must be to tell it.
const OFFSET_STORE = "tempermark:clock-offset";
const QUICK_MS = 1000;
const EARLY_SHARE = 0.1;
const PLATEN_MS = 2000;
const LONGEST_PHOTO_PX = 1600;
const PHOTO_QUALITY = 0.85;
const OUTCOME_KEYS = { g: "good", s: "second", x: "spoiled" };
const OUTCOME_WORDS = { good: "Good", second: "Second", spoiled: "Spoiled", faulty: "Faulty", open: "Not scored" };

function dwellText(seconds) {
  const whole = Math.max(0, Math.ceil(seconds - 0.001));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

function make(tag, text, classes, parent) {
  const element = document.createElement(tag);
  if (text) element.textContent = text;
  if (classes) element.className = classes;
  if (parent) parent.append(element);
  return element;
}

function keptOffset() {
  try { return Number(window.localStorage.getItem(OFFSET_STORE) ?? NaN); } catch { return NaN; }
}

class RunStrip {
  constructor(root) {
    this.root = root;
    this.plan = JSON.parse(document.getElementById(root.dataset.run).textContent);
    // The server's clock less this one's, as it was last known: a kept page tells an old time.
    this.offset = keptOffset();
    if (Number.isNaN(this.offset)) this.setOffset(this.plan.now_s - Date.now() / 1000);
    this.state = new RunState(this.plan);
    this.outbox = new Outbox(this.plan.run, this.plan.address, root.dataset.token, { id: root.dataset.person, name: root.dataset.personName }, () => this.showQueue());
    this.clocks = new ClockQueue(this.outbox, this.plan.clock);
    for (const entry of this.outbox.log) this.state.apply({ ...entry, at_s: entry.at_s + this.offset });
    this.parts = {};
    for (const part of root.querySelectorAll("[data-part]")) this.parts[part.dataset.part] = part;
    this.symptom = root.querySelector("[data-symptom]");
    this.listen();
    this.draw();
    window.setInterval(() => this.count(), 200);
    if (this.parts.platen) window.setInterval(() => this.askPlaten(), PLATEN_MS);
    this.askPlaten();
  }

  setOffset(late) {
    this.offset = Math.abs(late) > EARLY_S ? late : 0;
    try { window.localStorage.setItem(OFFSET_STORE, String(this.offset)); } catch { /* known for as long as this page is open */ }
  }

  now() { return Date.now() / 1000 + this.offset; }
  may() { return this.root.dataset.mayWork === "1" && !this.state.isEnded; }

  listen() {
    this.root.addEventListener("click", (event) => {
      const button = event.target.closest("[data-act]");
      if (button && this.root.contains(button)) this.act(button.dataset.act, button.dataset);
    });
    // Keys go to the strip in use: the only one, or the one last touched.
    this.root.addEventListener("pointerdown", () => { RunStrip.focused = this; });
    document.addEventListener("keydown", (event) => {
      if ((RunStrip.focused || RunStrip.first) !== this || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target.closest("input, select, textarea, a, summary")) return;
      this.key(event);
    });
    const note = this.root.querySelector("[data-note]");
    if (note) note.addEventListener("keydown", (event) => {
      if (event.key === "Enter" && !event.shiftKey) { event.preventDefault(); this.note(); note.blur(); }
    });
    const photo = this.root.querySelector("[data-photo]");
    if (photo) photo.addEventListener("change", () => this.addPhoto(photo));
    const outline = this.root.querySelector("[data-place]");
    if (outline) outline.addEventListener("click", (event) => this.placeTap(outline, event));
  }

  key(event) {
    const key = event.key.toLowerCase();
    if (key === " " || key === "enter") {
      if (event.target.closest("button")) return;
      const first = this.parts.buttons.querySelector("button.go");
      if (first) { event.preventDefault(); first.click(); }
    } else if (this.judging().length && OUTCOME_KEYS[key]) this.act("outcome", { outcome: OUTCOME_KEYS[key] });
    else if (key === "f") this.act("fault", {});
    else if (key === "n") { event.preventDefault(); const note = this.root.querySelector("[data-note]"); if (note) { note.closest("details").open = true; note.focus(); } }
    else if (key === "u") this.act("undo", {});
  }

  log(kind, more) {
    const load = this.state.current(), step = this.state.step(load);
    const place = { load: load.number, placing: load.placing, step: step.number };
    const entry = { key: newKey(), kind, at_s: Date.now() / 1000, ...place, ...more };
    // The state counts in the server's time, the queue tells this clock's: the server corrects it.
    this.state.apply({ ...entry, at_s: this.now() });
    this.outbox.add(entry);
    this.keepAwake();
    this.draw();
  }

  act(name, data) {
    if (!this.may()) return;
    const load = this.state.current(), step = this.state.step(load);
    const acts = {
      set: () => this.log("set", { set_c: step.set_c }),
      ready: () => this.log("ready", { set_c: step.set_c }),
      close: () => this.log("closed", { press: load.press || newKey(), pieces: this.state.pieces(load.number), set_c: step.set_c }),
      open: () => this.log("opened", { press: load.press, is_last: this.isLast(load, step) }),
      last: () => this.log("opened", { press: load.press, is_last: true }),
      done: () => { this.startWaits(step); this.log("done", {}); },
      later: () => this.log("went_to", { load: this.state.loads.size + 1, placing: 0, step: this.plan.steps[0].number }),
      load: () => this.log("went_to", { load: Number(data.load), ...this.placeOf(Number(data.load)) }),
      step: () => this.log("went_to", { step: this.plan.steps[Number(data.step)].number }),
      outcome: () => this.judge(data.outcome),
      allgood: () => this.log("outcome", { pieces: this.state.unjudged().slice(0, 12), outcome: "good" }),
      fault: () => this.openFault(),
      saw: () => this.saw(data.outcome),
      note: () => this.note(),
      undo: () => this.undo(),
      end: () => this.end(),
    };
    if (acts[name]) acts[name]();
  }

  // Opened before its dwell is over, a piece may be closed on again: nothing is logged for good yet.
  isLast(load, step) { return load.closedFor + this.now() - load.closedAt >= this.enough(step); }
  enough(step) { return step.dwell_s - Math.min(EARLY_S, EARLY_SHARE * step.dwell_s); }

  // A load that was left where it was goes on there.
  placeOf(number) {
    const load = this.state.load(number);
    return { placing: load.placing, step: this.plan.steps[load.step].number };
  }

  // The pieces an outcome is for: the one chosen, else all of the load that is being judged.
  judging() {
    const load = this.state.current();
    if (load.phase !== "outcome") return [];
    const open = this.state.pieces(load.number).filter((piece) => !this.state.judged(piece));
    return this.chosen && open.includes(this.chosen) ? [this.chosen] : open;
  }

  judge(outcome) {
    const pieces = this.judging();
    if (!pieces.length) return;
    this.log("outcome", { pieces, outcome });
    this.chosen = null;
    this.draw();
  }

  openFault() {
    const fold = this.root.querySelector("[data-fault]");
    if (!fold) return;
    fold.open = true;
    this.symptom.focus();
  }

  placeTap(outline, event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(outline.getScreenCTM().inverse());
    const art = outline.querySelector("[data-art-box]");
    const share = (value, from, size) => (value - Number(art.getAttribute(from))) / Number(art.getAttribute(size));
    this.tapped = { x: share(point.x, "x", "width"), y: 1 - share(point.y, "y", "height") };
    const dot = outline.querySelector("[data-dot]");
    dot.setAttribute("cx", point.x);
    dot.setAttribute("cy", point.y);
    dot.removeAttribute("visibility");
  }

  saw(outcome) {
    const pieces = this.judging();
    if (!this.symptom.value || !pieces.length) { this.symptom.focus(); return; }
    const where = this.tapped || {};
    this.log("outcome", { pieces, outcome, symptom: this.symptom.value, ...where });
    this.symptom.value = "";
    this.tapped = null;
    this.root.querySelector("[data-dot]").setAttribute("visibility", "hidden");
    this.root.querySelector("[data-fault]").open = false;
    this.draw();
  }

  note() {
    const field = this.root.querySelector("[data-note]");
    const text = field.value.trim();
    if (!text) return;
    const load = this.state.current();
    const pieces = load.phase === "outcome" || load.pressedMain ? { pieces: this.judging().length ? this.judging() : this.state.pieces(load.number) } : {};
    this.log("note", { text, ...pieces });
    field.value = "";
  }

  // The last outcome is taken back by an entry that names it.
  undo() {
    const takenBack = new Set(this.state.log.map((entry) => entry.corrects));
    const last = [...this.state.log].reverse().find((entry) => entry.kind === "outcome" && entry.outcome !== "open" && !takenBack.has(entry.key));
    if (!last) return;
    this.log("outcome", { pieces: last.pieces, outcome: "open", corrects: last.key });
  }

  // Clocks of the step run on the server: they outlive this page.
  startWaits(step) { for (const [name, seconds] of step.waits) this.startClock(name, seconds); }
  end() {
    for (const [name, seconds] of this.plan.afterwards) this.startClock(name, seconds);
    this.log("ended", {});
  }

  startClock(name, seconds) {
    this.clocks.add(this.plan.job, `${name}, load ${this.state.current().number}`, seconds);
  }

  draw() {
    const load = this.state.current(), step = this.state.step(load);
    this.drawSteps(load);
    const shown = this.view(load, step);
    this.parts.headline.textContent = shown.headline;
    this.parts.do.textContent = shown.do || "";
    this.parts.look.textContent = shown.look || "";
    this.parts.caution.textContent = shown.caution || "";
    this.parts.caution.hidden = !shown.caution;
    this.parts.buttons.replaceChildren();
    if (this.may()) for (const [act, words, classes, data] of shown.buttons) {
      const button = make("button", words, classes || "act", this.parts.buttons);
      button.type = "button";
      Object.assign(button.dataset, { act, ...(data || {}) });
    }
    const fold = this.root.querySelector("[data-fault]");
    if (fold) fold.hidden = !this.judging().length;
    this.drawSetting(step);
    this.drawPieces(load);
    this.drawLog();
    this.showQueue();
    this.count();
  }

  view(load, step) {
    const press = this.plan.press, pieces = this.state.pieces(load.number);
    const which = pieces.length > 1 ? `pieces ${pieces[0]} to ${pieces.at(-1)}` : `piece ${pieces[0]}`;
    if (this.state.isEnded) return { headline: `This run on ${press} has ended.`, buttons: [] };
    if (load.phase === "outcome") return this.outcomeView(which);
    if (this.state.isComplete()) {
      return {
        headline: `All ${this.plan.quantity} ${this.plan.quantity === 1 ? "piece is" : "pieces are"} logged.`,
        do: "End the run, or press one more.",
        buttons: [["end", "End the run", "go"], ...this.firstButtons(load, step)],
      };
    }
    const words = { do: step.do, look: step.look_for, caution: step.caution };
    const placing = this.plan.placings.length > 1 ? `, ${this.plan.placings[load.placing]}` : "";
    if (!step.is_heated) return { headline: `${step.name}: ${which}${placing}.`, ...words, buttons: this.idleButtons("done", "Done") };
    if (load.phase === "closed") {
      const isLast = load.closedFor + this.state.target(load, step) >= this.enough(step);
      return { headline: `${press} is closed on ${which}${placing}.`, ...words, buttons: [["open", isLast ? "Opened" : "Opened: close again next", "go"]] };
    }
    if (load.phase === "between") {
      const left = Math.round(step.dwell_s - load.closedFor), next = Math.round(this.state.target(load, step));
      return { headline: `Close ${press} again for ${next} s${next < left ? `; ${left} s are left` : ""}.`, ...words, buttons: [["close", "Closed", "go"], ["last", "Long enough: go on"]] };
    }
    if (this.state.readyFor !== step.set_c) return { headline: this.settingHeadline(step), ...words, buttons: this.firstButtons(load, step) };
    const over = step.closings_s.length > 1 ? ` in ${step.closings_s.length} closings` : "";
    return { headline: `${step.name}: close ${press} on ${which}${placing} for ${step.dwell_s} s${over}.`, ...words, buttons: this.idleButtons("close", "Closed") };
  }

  settingHeadline(step) {
    const press = this.plan.press, pressure = step.pressure ? `, ${step.pressure} pressure` : "";
    return this.state.setFor === step.set_c ? `Wait until ${press} is steady at ${step.dial}.` : `Set ${press} to ${step.dial}${pressure}.`;
  }

  firstButtons(load, step) {
    if (!step.is_heated) return this.idleButtons("done", "Done");
    if (this.state.readyFor === step.set_c) return this.idleButtons("close", "Closed");
    return this.state.setFor === step.set_c ? [["ready", `Steady at ${step.dial}`, "go"]] : [["set", "Done: it is set", "go"], ["ready", "Already set and steady"]];
  }

  idleButtons(act, words) {
    const buttons = [[act, words, "go"]];
    const load = this.state.current();
    if (load.step > 0 && load.pressedMain !== null) buttons.push(["later", "Next load meanwhile"]);
    return buttons;
  }

  outcomeView(which) {
    const pieces = this.judging();
    const name = pieces.length > 1 ? `pieces ${pieces.join(", ")}` : `piece ${pieces[0]}`;
    const buttons = Object.entries(OUTCOME_KEYS).map(([key, outcome]) => ["outcome", `${OUTCOME_WORDS[outcome]} (${key.toUpperCase()})`, outcome === "good" ? "go" : "act", { outcome }]);
    buttons.push(["fault", "Something is wrong (F)"], ["later", "Score later"]);
    return { headline: `How did ${name} come out?`, do: pieces.length > 1 ? "One tap is for all of them; tap a piece to judge it alone." : "", buttons };
  }

  drawSteps(load) {
    const list = this.parts.steps;
    list.replaceChildren();
    this.plan.steps.forEach((step, index) => {
      const item = make("li", "", "", list);
      const button = make("button", step.name, "", item);
      if (step.dwell_s && step.is_heated) make("span", step.closings_s.length > 1 ? step.closings_s.join(" + ") + " s" : `${step.dwell_s} s`, "figure", button);
      button.type = "button";
      button.disabled = !this.may() || load.phase === "closed";
      Object.assign(button.dataset, { act: "step", step: index });
      // A step takes the room of its time, within bounds, so that the band reads as time.
      item.style.flexGrow = String(Math.max(1, Math.min(6, Math.sqrt(step.dwell_s || 9) / 2.5)));
      const isHere = index === load.step && load.phase !== "outcome" && load.phase !== "over";
      if (isHere) button.setAttribute("aria-current", "step");
      if (index < load.step || load.phase === "outcome") item.className = "is-done";
    });
  }

  drawSetting(step) {
    const rows = this.parts.setting;
    rows.replaceChildren();
    if (!step.is_heated) return;
    const aim = step.aim ? `gives ${step.aim} true` : "what that gives is not known: no survey";
    const guess = step.is_guess ? "; a guess: this setting was never surveyed" : "";
    for (const [name, value, why] of [["Dial", step.dial, aim + guess], ["Pressure", step.pressure || "none", step.is_main ? this.root.dataset.pressureText : ""], ["Dwell", `${step.dwell_s} s`, step.closings_s.length > 1 ? `${step.closings_s.join(" + ")} s: the timer ends before` : ""]]) {
      const row = make("p", "", "run-setting", rows);
      make("span", name, "soft", row);
      make("b", value, "figure", row);
      if (why) make("span", why, "small soft", row);
    }
  }

  drawPieces(load) {
    const place = this.parts.pieces;
    place.replaceChildren();
    const total = [...this.state.outcomes.values()].length, count = (outcome) => [...this.state.outcomes.values()].filter((e) => e.outcome === outcome).length;
    const wrong = ["second", "spoiled", "faulty"].map((o) => [count(o), OUTCOME_WORDS[o].toLowerCase()]).filter(([n]) => n);
    make("p", total ? `${count("good")} good of ${this.plan.quantity}${wrong.map(([n, w]) => `, ${n} ${w}`).join("")}` : `${this.plan.quantity} to press`, "lead", place);
    const row = make("div", "", "row", place);
    for (const piece of this.state.pieces(load.number)) {
      const said = this.state.outcomes.get(piece);
      const button = make("button", `Piece ${piece}${said && said.outcome !== "open" ? `: ${OUTCOME_WORDS[said.outcome].toLowerCase()}` : ""}`, "act tiny", row);
      button.type = "button";
      button.setAttribute("aria-pressed", String(this.chosen === piece));
      button.addEventListener("click", () => { this.chosen = this.chosen === piece ? null : piece; this.draw(); });
    }
    for (const other of this.state.waiting()) {
      const step = this.plan.steps[other.step];
      const button = make("button", other.phase === "outcome" ? `Load ${other.number}: to be scored` : `Load ${other.number}: ${step.name.toLowerCase()}`, "act tiny", row);
      button.type = "button";
      button.disabled = !this.may();
      Object.assign(button.dataset, { act: "load", load: other.number });
    }
    const open = this.state.unjudged();
    if (open.length > 1 && this.may()) {
      const all = make("button", `All ${Math.min(12, open.length)} good`, "act tiny", row);
      all.type = "button";
      all.dataset.act = "allgood";
    }
  }

  drawLog() {
    const list = this.parts.log;
    list.replaceChildren();
    for (const entry of [...this.state.log].reverse().slice(0, 8)) {
      const at = new Date(entry.at_s * 1000).toLocaleTimeString("en-GB");
      make("li", `${at} ${this.said(entry)}`, "", list);
    }
  }

  said(entry) {
    const step = this.plan.steps.find((s) => s.number === entry.step);
    const pieces = entry.pieces ? (entry.pieces.length > 1 ? `pieces ${entry.pieces.join(", ")}` : `piece ${entry.pieces[0]}`) : "";
    const words = {
      set: "dial set", ready: "platen ready", closed: `closed on ${pieces}`, done: `${step ? step.name.toLowerCase() : "step"} done`,
      went_to: `went to ${step ? step.name.toLowerCase() : "a step"}, load ${entry.load}`, note: `note: ${entry.text || ""}`, mark: "mark", ended: "run ended",
      outcome: `${pieces}: ${OUTCOME_WORDS[entry.outcome] ? OUTCOME_WORDS[entry.outcome].toLowerCase() : ""}${entry.corrects ? ", corrected" : ""}`,
      opened: entry.is_last ? "opened" : "opened between closings",
    };
    return words[entry.kind] || entry.kind;
  }

  // Large figures and sound; drawn five times a second from the clock, so that nothing drifts.
  count() {
    const load = this.state.current(), step = this.state.step(load);
    let text = "", isLow = false;
    if (load.phase === "closed") {
      const whole = this.state.target(load, step);
      const left = whole - (this.now() - load.closedAt);
      text = left > 0 ? dwellText(left) : `+${dwellText(-left)}`;
      isLow = left <= LOW_S;
      if (left <= 0 && load.rang !== load.closedAt) {
        load.rang = load.closedAt;
        ring(`run-${this.plan.run}-${load.closedAt}`);
      }
      this.parts.headline.textContent = left > 0 ? `${this.plan.press} is closed: open it in ${dwellText(left)}.` : `Open ${this.plan.press} now.`;
      this.progress(load.step, Math.min(1, 1 - left / whole));
    } else if (load.phase === "between") text = `+${dwellText(this.now() - load.openedAt)}`;
    else if (step.is_heated && load.phase === "ready" && !this.state.isEnded) text = dwellText(step.dwell_s);
    this.parts.count.textContent = text;
    this.parts.count.hidden = !text;
    this.parts.count.classList.toggle("is-low", isLow);
  }

  progress(index, share) {
    const item = this.parts.steps.children[index];
    if (item) item.style.setProperty("--passed", `${Math.round(share * 100)}%`);
  }

  showQueue() {
    if (!this.parts) return;
    const text = this.outbox.sentence();
    this.parts.queue.textContent = text;
    this.parts.queue.hidden = !text;
  }

  // A live logger says whether the platen is there, how deep the dip is and whether it is back.
  async askPlaten() {
    if (!this.parts.platen || document.hidden || this.state.isEnded) return;
    const step = this.state.step();
    try {
      const asked = Date.now();
      const answer = await fetch(`${this.plan.platen}?set_c=${step.set_c ?? ""}&after=${this.plan.last}`, { redirect: "manual", signal: AbortSignal.timeout(PLATEN_MS * 2) });
      if (!answer.ok) return;
      const took = Date.now() - asked;
      const found = await answer.json();
      if (took < QUICK_MS) this.setOffset(found.now_s - (asked + took / 2) / 1000);
      this.takeOver(found);
      this.parts.platen.textContent = step.is_heated ? found.text : "";
      this.parts.platen.classList.toggle("decide", found.ready);
    } catch { /* shown as it was; the queue says when there is no connection */ }
  }

  // What another bench logged to this run meanwhile.
  takeOver(found) {
    this.plan.last = found.last;
    const unseen = found.entries.filter((entry) => !this.state.seen.has(entry.key));
    for (const entry of unseen) this.state.apply(entry);
    if (unseen.length) this.draw();
  }

  async keepAwake() {
    if (!navigator.wakeLock || this.awake) return;
    try {
      this.awake = await navigator.wakeLock.request("screen");
      this.awake.addEventListener("release", () => { this.awake = null; });
    } catch { this.awake = null; }
  }

  // A photograph is made small here, which also leaves place and camera behind; the server does both again.
  async addPhoto(field) {
    const file = field.files[0];
    field.value = "";
    if (!file) return;
    const say = (text) => { this.parts.photo.textContent = text; };
    let data = file;
    try {
      const picture = await createImageBitmap(file);
      const scale = Math.min(1, LONGEST_PHOTO_PX / Math.max(picture.width, picture.height));
      const canvas = Object.assign(document.createElement("canvas"), { width: Math.round(picture.width * scale), height: Math.round(picture.height * scale) });
      canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
      data = await new Promise((done) => { canvas.toBlob(done, "image/jpeg", PHOTO_QUALITY); });
    } catch { say("This browser cannot read the file as a picture: it is sent as it is."); }
    const form = new FormData();
    const load = this.state.current();
    const pieces = this.judging().length ? this.judging() : this.state.pieces(load.number);
    form.append("file", data, "photo.jpg");
    form.append("piece", String(pieces[0]));
    form.append("once", newKey());
    this.sendPhoto(form, say, OUTBOX_RETRY_MS);
  }

  async sendPhoto(form, say, waitMs) {
    say("Sending the photograph…");
    try {
      const answer = await fetch(this.root.dataset.photos, { method: "POST", body: form, redirect: "manual", headers: { "X-CSRFToken": this.outbox.token } });
      if (answer.ok) { say((await answer.json()).text); return; }
      if (answer.status < 500 && answer.status !== 0) { say((await answer.json()).text); return; }
    } catch { /* sent again below */ }
    say("No connection: the photograph is kept in this page and sent again. Do not close the page.");
    window.setTimeout(() => this.sendPhoto(form, say, Math.min(2 * waitMs, OUTBOX_LONGEST_RETRY_MS)), waitMs);
  }
}

document.addEventListener("DOMContentLoaded", () => {
  for (const root of document.querySelectorAll("[data-run]")) {
    const strip = new RunStrip(root);
    if (!RunStrip.first) RunStrip.first = strip;
  }
});
// The page itself is kept, so that it opens again without a connection.
if (navigator.serviceWorker && window.isSecureContext) {
  navigator.serviceWorker.register("/runs/worker.js", { scope: "/runs/" }).catch(() => {});
}
document.addEventListener("visibilitychange", () => { if (!document.hidden && RunStrip.first) RunStrip.first.keepAwake(); });
