// Small helpers; every page also works without them.
"use strict";

// A figure that could not be sent stays in its field and is sent again by itself, with the same key,
// so that it can neither be lost nor counted twice.
const RETRY_MS = 3000;
const SERVER_FAILS = 500;

function notice(form, text) {
  const place = form.querySelector("[data-kept]");
  if (place) place.textContent = text;
}

document.addEventListener("htmx:sendError", (event) => retryLater(event.target));
document.addEventListener("htmx:timeout", (event) => retryLater(event.target));
// A server that fails, or whose database is away, is as good as none.
document.addEventListener("htmx:responseError", (event) => {
  if (event.detail.xhr.status >= SERVER_FAILS) retryLater(event.target, "The server does not answer.");
});

function retryLater(source, why = "No connection.") {
  const form = source.closest("form[data-retry]");
  if (!form) return;
  notice(form, `${why} The figure is kept here and sent again.`);
  remember(form);
  window.setTimeout(() => { if (document.contains(form)) form.requestSubmit(); }, RETRY_MS);
}

function storeKey(form) { return "tempermark:" + form.getAttribute("action"); }

function remember(form) {
  try {
    const kept = Object.fromEntries(new FormData(form));
    delete kept.csrfmiddlewaretoken;
    window.localStorage.setItem(storeKey(form), JSON.stringify(kept));
  } catch { /* private windows may refuse storage; the field itself still holds the figure */ }
}

// After a reload or a dead battery: what was never sent comes back into its field.
function recall() {
  for (const form of document.querySelectorAll("form[data-retry]")) {
    let kept = null;
    try { kept = JSON.parse(window.localStorage.getItem(storeKey(form)) || "null"); } catch { kept = null; }
    if (!kept) continue;
    window.localStorage.removeItem(storeKey(form));
    for (const [name, value] of Object.entries(kept)) {
      const field = form.elements.namedItem(name);
      if (field && "value" in field) field.value = value;
    }
    notice(form, "This figure was never sent. Press Enter to send it.");
  }
}

document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.target.closest && event.target.closest("form[data-retry]");
  const status = event.detail.xhr ? event.detail.xhr.status : 0;
  if (form && status > 0 && status < SERVER_FAILS) {
    try { window.localStorage.removeItem(storeKey(form)); } catch { /* as above */ }
  }
});

// Answers with 422 carry the form with its error: show them too.
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.xhr.status === 422) { event.detail.shouldSwap = true; event.detail.isError = false; }
});

// Taps on a drawing become millimetres in the form's fields. data-tap names the form;
// data-scale, data-left and data-bottom say how millimetres were drawn.
function millimetres(svg, event) {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const scale = Number(svg.dataset.scale);
  return {
    x: (point.x - Number(svg.dataset.left)) / scale,
    y: (Number(svg.dataset.bottom) - point.y) / scale,
    svgX: point.x, svgY: point.y,
  };
}

document.addEventListener("click", (event) => {
  const svg = event.target.closest && event.target.closest("svg[data-tap]");
  if (!svg || svg.dataset.justDragged) return;
  const form = document.getElementById(svg.dataset.tap);
  const at = millimetres(svg, event);
  if (svg.dataset.mode === "art") centreArt(form, at); else if (svg.dataset.mode === "print") centrePrint(form, at); else if (svg.dataset.mode === "place") askPlace(form, at); else if (svg.dataset.mode === "centre") placeArt(form, at); else placeMark(svg, form, at);
});

// A place on the platen chart: what to set for a print just there.
function askPlace(form, at) {
  form.elements.namedItem("x_mm").value = Math.max(0, at.x).toFixed(0);
  form.elements.namedItem("y_mm").value = Math.max(0, at.y).toFixed(0);
  document.body.dispatchEvent(new Event("placed"));
}

// A tap on the outcome over the platen: the art's middle goes there and all is computed again.
function centreArt(form, at) {
  const field = (name) => form.elements.namedItem(name);
  const size = (name) => parseFloat(field(name).value.replace(",", ".")) || 0;
  field("art_x_mm").value = Math.max(0, at.x - size("art_width_mm") / 2).toFixed(0);
  field("art_y_mm").value = Math.max(0, at.y - size("art_height_mm") / 2).toFixed(0);
  document.body.dispatchEvent(new Event("art-moved"));
}

// Which form a tap on a piece is for: the one last typed in.
let typedIn = null;
document.addEventListener("focusin", (event) => { if (event.target.form) typedIn = event.target.form; });

// A tap on a piece: the print's middle goes there, or the raised part being drawn begins there.
function centrePrint(form, at) {
  if (typedIn && typedIn.id === "raised-form" && document.contains(typedIn)) {
    typedIn.elements.namedItem("x_mm").value = Math.max(0, at.x).toFixed(0);
    typedIn.elements.namedItem("y_mm").value = Math.max(0, at.y).toFixed(0);
    typedIn.elements.namedItem("width_mm").focus();
    return;
  }
  const size = (name) => parseFloat(form.elements.namedItem(name).value.replace(",", ".")) || 0;
  form.elements.namedItem("print_x_mm").value = Math.max(0, at.x - size("print_width_mm") / 2).toFixed(0);
  form.elements.namedItem("print_y_mm").value = Math.max(0, at.y - size("print_depth_mm") / 2).toFixed(0);
  document.body.dispatchEvent(new Event("placed"));
}

// A line or an area is tapped at both its ends: the second tap, and any after it, is its other end.
function placeMark(svg, form, at) {
  const field = (name) => form.elements.namedItem(name);
  const isLong = field("shape") && field("shape").value !== "point";
  const end = isLong && field("x_mm").value ? "2" : "";
  field(`x${end}_mm`).value = at.x.toFixed(1);
  field(`y${end}_mm`).value = at.y.toFixed(1);
  form.elements.namedItem("where").value = "";
  const pending = svg.querySelector("[data-pending]");
  if (pending) {
    pending.setAttribute("transform", `translate(${at.svgX} ${at.svgY})`);
    pending.removeAttribute("visibility");
  }
  const symptom = form.elements.namedItem("symptom");
  if (!symptom.value) symptom.focus(); else form.querySelector("button").focus();
}

function placeArt(form, at) {
  const size = (name) => parseFloat(form.elements.namedItem(name).value.replace(",", ".")) || 0;
  form.elements.namedItem("art_x_mm").value = (at.x - size("art_width_mm") / 2).toFixed(0);
  form.elements.namedItem("art_y_mm").value = (at.y - size("art_height_mm") / 2).toFixed(0);
  drawArt();
  document.body.dispatchEvent(new Event("placed"));
}

// The art on the small platen follows its four figures.
function drawArt() {
  const svg = document.querySelector("svg[data-mode=centre]");
  if (!svg) return;
  const form = document.getElementById(svg.dataset.tap);
  const value = (name) => parseFloat(form.elements.namedItem(name).value.replace(",", ".")) || 0;
  const scale = Number(svg.dataset.scale);
  const art = svg.querySelector("[data-art]");
  art.setAttribute("x", Number(svg.dataset.left) + value("art_x_mm") * scale);
  art.setAttribute("y", Number(svg.dataset.bottom) - (value("art_y_mm") + value("art_height_mm")) * scale);
  art.setAttribute("width", Math.max(0, value("art_width_mm") * scale));
  art.setAttribute("height", Math.max(0, value("art_height_mm") * scale));
}

document.addEventListener("input", (event) => { if (/^art_/.test(event.target.name || "")) drawArt(); });

// A form that is chosen rather than filled sends itself.
document.addEventListener("change", (event) => {
  if (event.target.matches && event.target.matches("[data-send]")) event.target.form.requestSubmit();
});

// One click is one entry: a second one within the same page does nothing.
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.hasAttribute("hx-post") || form.method !== "post") return;
  if (form.dataset.sent) { event.preventDefault(); return; }
  form.dataset.sent = "1";
});
window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) delete form.dataset.sent;
});

document.addEventListener("DOMContentLoaded", () => { recall(); drawArt(); });
