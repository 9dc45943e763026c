// Forms are sent once and never lost: what cannot be sent stays in its fields, is kept in the browser
// and sent again by itself with the same key. Without scripts forms work as they always do.
"use strict";

const FIRST_RETRY_MS = 3000;
const LONGEST_RETRY_MS = 30000;
const LONGEST_ANSWER_MS = 120000;
const SERVER_FAILS = 500;
const FORBIDDEN = 403;
const CONFLICT = 409;
const TOO_LATE = "Somebody else saved the same at this moment. Nothing of yours was saved: reload the page and look first.";
const NEVER_KEPT = ["csrfmiddlewaretoken", "password"];
const SLOW_MS = 1200;
const SENDING = "Sending…";
const NO_CONNECTION = "No connection.";
const NO_ANSWER = "The server does not answer.";

// Attributes are read as such: a field may be named “method” or “action”.
function isSent(form) { return (form.getAttribute("method") || "").toLowerCase() === "post"; }
function isByHtmx(form) { return form.hasAttribute("hx-post"); }
function addressOf(form) { return form.getAttribute("action") || window.location.pathname + window.location.search; }
function hasKey(form) { return Boolean(form.querySelector("[name=once]")); }

// Said where the eye is: under the button that was pressed, else at the end of the form.
function notice(form, text, submitter) {
  let place = form.querySelector("[data-kept]");
  if (!place) {
    place = document.createElement("p");
    place.dataset.kept = "";
    place.className = "caution mt-2";
    place.setAttribute("role", "status");
    const row = submitter && submitter.closest(".row");
    if (row && form.contains(row) && row !== form) row.after(place); else form.append(place);
  }
  place.textContent = text;
}

// What is kept where: one entry for each form that has something typed in it.
function storeKey(form) { return `tempermark:${window.location.pathname}:${addressOf(form)}:${form.id}`; }

function isTyped(form) {
  return Boolean(form.querySelector("input:not([type=hidden]):not([type=submit]), textarea, select"));
}

function remember(form) {
  if (!isTyped(form)) return;
  const kept = [...new FormData(form)].filter(([name, value]) => typeof value === "string" && !NEVER_KEPT.includes(name));
  try {
    window.localStorage.setItem(storeKey(form), JSON.stringify(kept));
  } catch { /* private windows may refuse storage; the fields themselves still hold it */ }
}

function forget(form) {
  try { window.localStorage.removeItem(storeKey(form)); } catch { /* as above */ }
}

function fill(form, kept) {
  const values = new Map();
  for (const [name, value] of kept) values.set(name, [...(values.get(name) || []), value]);
  for (const field of form.elements) {
    if (!field.name || NEVER_KEPT.includes(field.name) || field.type === "file" || field.tagName === "BUTTON") continue;
    const given = values.get(field.name) || [];
    if (field.type === "checkbox" || field.type === "radio") field.checked = given.includes(field.value);
    else if (field.multiple && field.options) for (const option of field.options) option.selected = given.includes(option.value);
    else if (given.length) field.value = given[0];
  }
}

// After a reload, a new sign-in or a dead battery: what was never sent comes back into its fields.
function recall() {
  for (const form of document.querySelectorAll("form")) {
    if (!isSent(form)) continue;
    let kept = null;
    try { kept = JSON.parse(window.localStorage.getItem(storeKey(form)) || "null"); } catch { kept = null; }
    if (!Array.isArray(kept)) continue;
    forget(form);
    fill(form, kept);
    notice(form, "This was never sent. Look it over and send it.");
    for (let part = form.closest("details"); part; part = part.parentElement.closest("details")) part.open = true;
  }
}

// Forms that htmx sends.
function retryByHtmx(source, why) {
  const form = source.closest && source.closest("form[data-retry]");
  if (!form) return;
  notice(form, `${why} What you typed is kept here and sent again.`);
  remember(form);
  window.setTimeout(() => { if (document.contains(form)) form.requestSubmit(); }, FIRST_RETRY_MS);
}

document.addEventListener("htmx:sendError", (event) => retryByHtmx(event.target, NO_CONNECTION));
document.addEventListener("htmx:timeout", (event) => retryByHtmx(event.target, NO_CONNECTION));
document.addEventListener("htmx:responseError", (event) => {
  if (event.detail.xhr.status >= SERVER_FAILS) retryByHtmx(event.target, NO_ANSWER);
});
document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.target.closest && event.target.closest("form[data-retry]");
  const status = event.detail.xhr ? event.detail.xhr.status : 0;
  if (form && status > 0 && status < SERVER_FAILS) forget(form);
});

// All other forms: one click is one act, and an answer is waited for before the page is left.
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!isSent(form) || isByHtmx(form) || form.dataset.through) return;
  if (form.dataset.sent) { event.preventDefault(); return; }
  form.dataset.sent = "1";
  if (!hasKey(form)) return;
  event.preventDefault();
  send(form, event.submitter, FIRST_RETRY_MS);
});

function bodyOf(form, submitter) {
  const data = new FormData(form);
  if (submitter && submitter.name) data.append(submitter.name, submitter.value);
  return form.enctype === "multipart/form-data" ? data : new URLSearchParams(data);
}

async function send(form, submitter, waitMs) {
  let answer = null;
  const slow = window.setTimeout(() => notice(form, form.querySelector("[data-kept]")?.textContent || SENDING, submitter), SLOW_MS);
  try {
    answer = await fetch(addressOf(form), {
      method: "POST", body: bodyOf(form, submitter), redirect: "manual",
      headers: { "X-By-Script": "1" }, signal: AbortSignal.timeout(LONGEST_ANSWER_MS),
    });
  } catch { return sendAgain(form, submitter, waitMs, NO_CONNECTION); } finally { window.clearTimeout(slow); }
  if (answer.status >= SERVER_FAILS) return sendAgain(form, submitter, waitMs, NO_ANSWER);
  if (answer.status === CONFLICT) { delete form.dataset.sent; return notice(form, TOO_LATE, submitter); }
  forget(form);
  const next = answer.headers.get("X-Go-To");
  if (next) return go(next);
  // Signed out meanwhile, or the page too old: what was typed waits for the page to be opened again.
  if (answer.type === "opaqueredirect" || answer.status === FORBIDDEN) remember(form);
  // An answer in words: the browser asks for it itself, and the server does nothing twice.
  form.dataset.through = "1";
  return form.requestSubmit(submitter || undefined);
}

function sendAgain(form, submitter, waitMs, why) {
  notice(form, `${why} What you typed is kept here and sent again.`, submitter);
  remember(form);
  window.setTimeout(() => {
    if (document.contains(form)) send(form, submitter, Math.min(2 * waitMs, LONGEST_RETRY_MS));
  }, waitMs);
}

function go(address) {
  const next = new URL(address, window.location.href);
  const isHere = next.href.split("#")[0] === window.location.href.split("#")[0];
  window.location.assign(next);
  if (isHere && next.hash) window.location.reload();
}

// Going back or forward brings a page as it was loaded, where the browser has let go of it since:
// figures entered meanwhile are missing from it. It is asked for again, unless something is typed.
window.addEventListener("pageshow", (event) => {
  const [way] = performance.getEntriesByType("navigation");
  const isOfThen = way?.type === "back_forward" && !event.persisted;
  if (isOfThen && navigator.onLine && !somethingIsTyped()) window.location.reload();
});

function somethingIsTyped() {
  const fields = [...document.querySelectorAll("main input:not([type=hidden]), main textarea, main option")];
  return fields.some((field) => (
    field.selected !== field.defaultSelected || field.checked !== field.defaultChecked
    || (field.defaultValue !== undefined && field.value !== field.defaultValue)
  ));
}

window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) { delete form.dataset.sent; delete form.dataset.through; }
});

document.addEventListener("DOMContentLoaded", recall);
