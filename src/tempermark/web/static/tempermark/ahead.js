// Figures that are typed while the one before them is on its way. What was entered goes to the
// stations that follow, one after another; what is not entered yet waits in the field. Where each
// place is known only after the reading before it, nothing is entered ahead. Where that one is
// refused it is in the field again and nothing after it is entered; where it cannot be sent it is
// sent again (sending.js), and what was entered after it follows.
"use strict";

const ahead = { form: null, sent: "", entered: [], isTyped: false, swapped: null, rest: "" };

function isFieldOf(form, target) { return form && target === form.elements.namedItem("typed"); }

function putTyped(field, text) {
  field.value = text;
  field.setSelectionRange(text.length, text.length);
}

document.addEventListener("htmx:beforeSend", (event) => {
  const form = event.detail.elt;
  if (form.id !== "entry") return;
  const field = form.elements.namedItem("typed");
  Object.assign(ahead, { form, sent: field.value, isTyped: false });
  // What is typed next takes the place of what was sent.
  if (document.activeElement === field) field.select();
});

document.addEventListener("input", (event) => { if (isFieldOf(ahead.form, event.target)) ahead.isTyped = true; });

// Enter a second time is no second figure.
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !isFieldOf(ahead.form, event.target)) return;
  event.preventDefault();
  if (!ahead.isTyped || !event.target.value || !("ahead" in ahead.form.dataset)) return;
  ahead.entered.push(event.target.value);
  event.target.value = "";
  ahead.isTyped = false;
}, true);

// Before anything else hears of it: the figure that was not sent is in its field again.
function takeBack(event) {
  if (event.detail.elt !== ahead.form) return;
  const field = ahead.form.elements.namedItem("typed");
  if (ahead.isTyped) ahead.rest = field.value;
  if (field.value !== ahead.sent) putTyped(field, ahead.sent);
  Object.assign(ahead, { form: null, isTyped: false });
  // An answer that is no failure of the server's is not asked for again.
  if (event.type === "htmx:responseError" && event.detail.xhr.status < SERVER_FAILS) Object.assign(ahead, { entered: [], rest: "" });
}

// After sending.js has said that it is sent again.
function sayWhatFollows(event) {
  const place = event.target.closest && event.target.closest("#entry")?.querySelector("[data-kept]");
  if (place && ahead.entered.length) place.textContent += ` After it: ${ahead.entered.join(", ")}.`;
}

for (const why of ["htmx:sendError", "htmx:timeout", "htmx:sendAbort", "htmx:responseError"]) {
  document.addEventListener(why, takeBack, true);
  document.addEventListener(why, sayWhatFollows);
}

document.addEventListener("htmx:beforeSwap", (event) => {
  if (!ahead.form || event.detail.requestConfig.elt !== ahead.form || !event.detail.shouldSwap) return;
  if (ahead.isTyped) ahead.rest = ahead.form.elements.namedItem("typed").value;
  Object.assign(ahead, { form: null, swapped: ahead.form });
});

document.addEventListener("htmx:afterSettle", (event) => {
  if (!ahead.swapped || event.detail.requestConfig?.elt !== ahead.swapped) return;
  ahead.swapped = null;
  goOn(document.getElementById("entry"));
});

function goOn(form) {
  const field = form && form.elements.namedItem("typed");
  // What was refused is looked at before anything else; after the last station nothing follows.
  if (!field || field.value) { Object.assign(ahead, { entered: [], rest: "" }); return; }
  const next = ahead.entered.shift();
  if (next !== undefined) {
    field.value = next;
    form.requestSubmit();
  }
  if (next === undefined || ahead.rest) putTyped(field, ahead.rest);
  Object.assign(ahead, { isTyped: ahead.rest !== "", rest: "" });
}
