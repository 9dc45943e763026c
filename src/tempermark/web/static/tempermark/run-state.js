// Where a run stands, folded from its entries: the same entries always give the same place.
"use strict";

class RunState {
  constructor(plan) {
    this.plan = plan;
    this.loads = new Map();
    this.outcomes = new Map();
    this.marks = [];
    this.log = [];
    this.active = 1;
    this.setFor = null;
    this.readyFor = null;
    this.isEnded = plan.ended;
    this.seen = new Set();
    this.load(1);
    for (const entry of plan.entries) this.apply(entry);
  }

  load(number) {
    if (!this.loads.has(number)) {
      this.loads.set(number, { number, placing: 0, step: 0, phase: "ready", closing: 0, press: null, closedAt: 0, openedAt: 0, closedFor: 0, pressedMain: false });
    }
    return this.loads.get(number);
  }

  // The pieces of a load, by number.
  pieces(number) {
    const each = this.plan.per_load, first = (number - 1) * each + 1;
    const last = Math.max(first, Math.min(number * each, this.plan.quantity));
    return Array.from({ length: last - first + 1 }, (_, n) => first + n);
  }

  current() { return this.load(this.active); }
  step(load = this.current()) { return this.plan.steps[load.step]; }

  apply(entry) {
    if (this.seen.has(entry.key)) return;
    this.seen.add(entry.key);
    this.log.push(entry);
    const act = this[`on_${entry.kind}`];
    if (act) act.call(this, entry);
  }

  place(entry) {
    this.active = entry.load || 1;
    const load = this.current();
    load.placing = entry.placing || 0;
    const index = this.plan.steps.findIndex((step) => step.number === entry.step);
    if (index >= 0) load.step = index;
    return load;
  }

  on_set(entry) { this.setFor = entry.set_c; if (this.readyFor !== entry.set_c) this.readyFor = null; }
  on_ready(entry) { this.setFor = entry.set_c; this.readyFor = entry.set_c; }

  on_closed(entry) {
    const load = this.place(entry);
    load.closing = load.press === entry.press ? load.closing + 1 : 0;
    Object.assign(load, { press: entry.press, phase: "closed", closedAt: entry.at_s });
    this.setFor = this.readyFor = entry.set_c;
  }

  on_opened(entry) {
    const load = this.place(entry);
    load.openedAt = entry.at_s;
    if (load.phase === "closed") load.closedFor += Math.max(0, entry.at_s - load.closedAt);
    if (entry.is_last) { if (this.step(load).is_main) load.pressedMain = true; this.advance(load); } else load.phase = "between";
  }

  on_done(entry) { this.advance(this.place(entry)); }

  on_went_to(entry) {
    const load = this.place(entry);
    Object.assign(load, { phase: "ready", press: null, closing: 0, closedFor: 0 });
  }

  // How long the closing at hand, or the next, is to last: what is left, at most what the timer can.
  target(load = this.current(), step = this.step(load)) {
    const left = step.dwell_s - load.closedFor;
    return Math.max(0, Math.min(step.closings_s[0] || step.dwell_s, left));
  }

  advance(load) {
    Object.assign(load, { press: null, closing: 0, closedFor: 0, phase: "ready", step: load.step + 1 });
    if (load.step < this.plan.steps.length) return;
    if (load.placing + 1 < this.plan.placings.length) { load.placing += 1; load.step = 0; return; }
    load.step = this.plan.steps.length - 1;
    load.phase = "outcome";
  }

  on_outcome(entry) {
    for (const piece of entry.pieces) this.outcomes.set(piece, entry);
    if (entry.symptom) this.marks.push(entry);
    for (const number of new Set(entry.pieces.map((piece) => Math.ceil(piece / this.plan.per_load)))) this.settle(this.load(number), entry);
  }

  // A load is over once all its pieces are judged, and open again when a judgement is taken back.
  settle(load, entry) {
    if (entry.outcome === "open") {
      Object.assign(load, { phase: "outcome", press: null, closing: 0 });
      this.active = load.number;
    } else if (load.phase !== "over" && this.pieces(load.number).every((piece) => this.judged(piece))) {
      load.phase = "over";
      if (this.active === load.number) this.active = this.nextLoad();
    }
  }

  judged(piece) { return this.outcomes.has(piece) && this.outcomes.get(piece).outcome !== "open"; }
  on_mark(entry) { this.marks.push(entry); }
  on_ended() { this.isEnded = true; }

  // The load that waits longest, else a new one.
  nextLoad() {
    for (const load of this.loads.values()) if (load.phase !== "over") return load.number;
    return this.loads.size + 1;
  }

  waiting() { return [...this.loads.values()].filter((load) => load.number !== this.active && load.phase !== "over"); }

  unjudged() {
    const open = [];
    for (const load of this.loads.values()) {
      if (load.phase === "outcome") open.push(...this.pieces(load.number).filter((piece) => !this.judged(piece)));
    }
    return open;
  }

  isComplete() {
    const finished = [...this.loads.values()].filter((load) => load.phase === "over").length;
    return finished * this.plan.per_load >= this.plan.quantity && this.current().phase === "ready" && this.current().step === 0 && !this.current().press;
  }
}
