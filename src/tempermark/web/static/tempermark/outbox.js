// What a bench logs goes into a queue in the browser first, and from there to the server: in order,
// each entry once. It survives a reload, sleep, a lost connection and a new sign-in.
"use strict";

const ENTRIES_FORMAT = "tempermark.run-entries/1";
const OUTBOX_RETRY_MS = 3000;
const OUTBOX_LONGEST_RETRY_MS = 30000;
const OUTBOX_ANSWER_MS = 20000;
const CLOCK_RETRY_MS = 10000;
const MOST_AT_ONCE = 100;
const MOST_KEPT = 2000;
const SIGNED_OUT = "You are signed out. Entries are kept here: sign in again in another tab, then they are sent.";

function newKey() {
  if (window.crypto.randomUUID) return crypto.randomUUID();
  // Without a secure context there is no randomUUID, but still good random numbers.
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}

// Clocks that a step or the end of a run starts. One that was tapped without a connection waits here
// and is started later with what is left of it; its key makes it one, however often it is sent.
class ClockQueue {
  constructor(outbox, address) {
    this.outbox = outbox;
    this.address = address;
    this.store = `${outbox.store}:clocks`;
    this.waiting = outbox.read(this.store);
    this.isSending = false;
    window.addEventListener("online", () => this.send());
    window.setInterval(() => this.send(), CLOCK_RETRY_MS);
    this.send();
  }

  add(job, name, seconds) {
    this.waiting.push({ job, name, seconds, once: newKey(), began_ms: Date.now() });
    this.write();
    this.send();
  }

  write() {
    try { window.localStorage.setItem(this.store, JSON.stringify(this.waiting)); } catch { /* known to this page only */ }
  }

  async send() {
    if (this.isSending || !this.waiting.length) return;
    this.isSending = true;
    try {
      for (const clock of [...this.waiting]) {
        if (!await this.start(clock)) break;
        this.waiting = this.waiting.filter((other) => other.once !== clock.once);
        this.write();
      }
    } finally { this.isSending = false; }
  }

  async start({ job, name, seconds, once, began_ms }) {
    // One that should have rung meanwhile rings at once.
    const left = Math.max(1, seconds - (Date.now() - began_ms) / 1000);
    const body = new URLSearchParams({ job, name, seconds: left, once });
    try {
      const answer = await fetch(this.address, { method: "POST", body, headers: { "X-CSRFToken": this.outbox.token } });
      // Signed out, it would end at the sign-in page: it waits for the next one.
      return answer.ok && !new URL(answer.url).pathname.startsWith("/sign-in");
    } catch { return false; }
  }
}

class Outbox {
  // `person` is who works here now: { id, name }. What somebody else logged waits for them.
  constructor(run, address, token, person, changed) {
    this.person = person;
    this.store = `tempermark:run:${run}`;
    this.logStore = `tempermark:run-log:${run}`;
    this.lock = `tempermark-run-${run}`;
    this.address = address;
    this.token = token;
    this.changed = changed;
    this.waiting = this.read(this.store);
    // Everything logged from here, sent or not: a page that comes from the cache knows no more.
    this.log = this.read(this.logStore);
    this.refused = [];
    this.why = "";
    this.isSending = false;
    this.waitMs = OUTBOX_RETRY_MS;
    window.addEventListener("online", () => this.send());
    document.addEventListener("visibilitychange", () => { if (!document.hidden) this.send(); });
    this.send();
  }

  read(name) {
    try {
      const kept = JSON.parse(window.localStorage.getItem(name) || "[]");
      return Array.isArray(kept) ? kept : [];
    } catch { return []; }
  }

  write() {
    try {
      window.localStorage.setItem(this.store, JSON.stringify(this.waiting));
      window.localStorage.setItem(this.logStore, JSON.stringify(this.log.slice(-MOST_KEPT)));
      this.isKept = true;
    } catch { this.isKept = false; }
  }

  add(entry) {
    this.waiting.push({ ...entry, person: this.person });
    this.log.push(entry);
    this.write();
    this.changed();
    this.send();
  }

  // What may be sent in this session: a shared tablet keeps what somebody else logged for them.
  mine() { return this.waiting.filter(({ person }) => !person || person.id === this.person.id); }

  // One tab at a time sends; what another tab has added is sent too.
  async send() {
    if (this.isSending || !this.mine().length) return;
    this.isSending = true;
    window.clearTimeout(this.timer);
    try {
      if (navigator.locks) await navigator.locks.request(this.lock, () => this.sendAll());
      else await this.sendAll();
    } finally { this.isSending = false; }
    this.changed();
    if (this.mine().length) {
      this.timer = window.setTimeout(() => this.send(), this.waitMs);
      this.waitMs = Math.min(2 * this.waitMs, OUTBOX_LONGEST_RETRY_MS);
    }
  }

  async sendAll() {
    while (this.mine().length) {
      const batch = this.mine().slice(0, MOST_AT_ONCE).map(({ person, ...entry }) => entry);
      const answer = await this.post(batch);
      if (!answer) return;
      const done = new Map(answer.receipts.map((receipt) => [receipt.key, receipt]));
      for (const entry of batch) {
        const receipt = done.get(entry.key);
        if (receipt && receipt.state === "refused") {
          this.refused.push({ entry, why: receipt.why });
          this.log = this.log.filter((kept) => kept.key !== entry.key);
        }
      }
      this.waiting = this.waiting.filter((entry) => !done.has(entry.key));
      this.write();
      this.why = "";
      this.waitMs = OUTBOX_RETRY_MS;
      this.changed();
    }
  }

  async post(batch) {
    const body = JSON.stringify({ format: ENTRIES_FORMAT, sent_at_s: Date.now() / 1000, entries: batch });
    let answer = null;
    try {
      answer = await fetch(this.address, {
        method: "POST", body, redirect: "manual", signal: AbortSignal.timeout(OUTBOX_ANSWER_MS),
        headers: { "Content-Type": "application/json", "X-CSRFToken": this.token },
      });
    } catch { return this.failed("No connection"); }
    if (answer.type === "opaqueredirect" || answer.status === 403) return this.renew();
    if (!answer.ok) return this.failed(answer.status >= 500 ? "The server does not answer" : "The server refuses the entries");
    try { return await answer.json(); } catch { return this.failed("The server does not answer"); }
  }

  failed(why) {
    this.why = why;
    return null;
  }

  // The page's token grows old with the session: the page is read once more for a new one.
  async renew() {
    try {
      const answer = await fetch(window.location.href, { redirect: "manual" });
      if (answer.type === "opaqueredirect") return this.failed(SIGNED_OUT);
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      const fresh = page.querySelector("[data-token]");
      if (fresh) this.token = fresh.dataset.token;
    } catch { return this.failed("No connection"); }
    return this.failed("Sending again");
  }

  // What the page says of the queue: nothing while all is sent.
  sentence() {
    const count = this.mine().length;
    const parts = [];
    const others = this.waiting.length - count;
    if (others) {
      const names = [...new Set(this.waiting.map(({ person }) => person).filter((person) => person && person.id !== this.person.id).map((person) => person.name))].join(", ");
      parts.push(`${others} ${others === 1 ? "entry" : "entries"} by ${names} not sent yet: ${others === 1 ? "it is" : "they are"} sent when ${names} takes over here again.`);
    }
    if (count && this.why) {
      const kept = this.isKept === false ? "kept in this page only: do not close it" : "kept in this browser";
      parts.push(this.why === SIGNED_OUT ? SIGNED_OUT : `${this.why}: ${count} ${count === 1 ? "entry is" : "entries are"} ${kept} and will be sent in order.`);
    }
    for (const { entry, why } of this.refused) parts.push(`Not logged (${entry.kind}): ${why}`);
    return parts.join(" ");
  }
}
