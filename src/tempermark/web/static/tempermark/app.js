// Small helpers; every page also works without them.
"use strict";

// Answers with 422 carry the form with its error: show them too.
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.xhr.status === 422) { event.detail.shouldSwap = true; event.detail.isError = false; }
});

// What was refused is marked as a whole in its field: what is typed next takes its place.
function markRefused(within) {
  const field = within.querySelector("input[autofocus][aria-invalid=true]");
  if (field) field.select();
}

document.addEventListener("htmx:afterSettle", (event) => markRefused(event.target));
window.addEventListener("load", () => markRefused(document));

// Signed out: no page of a run stays on a shared tablet. What waits to be sent stays (outbox.js).
document.addEventListener("submit", (event) => {
  if (event.target.matches("[data-sign-out]") && window.caches) caches.delete("tempermark-runs-1");
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
  putMillimetres(form.elements.namedItem("x_mm"), Math.max(0, at.x));
  putMillimetres(form.elements.namedItem("y_mm"), Math.max(0, at.y));
  document.body.dispatchEvent(new Event("placed"));
}

// A tap on the outcome over the platen: the art's middle goes there and all is computed again.
function centreArt(form, at) {
  const field = (name) => form.elements.namedItem(name);
  const size = (name) => millimetresIn(field(name));
  putMillimetres(field("art_x_mm"), Math.max(0, at.x - size("art_width_mm") / 2));
  putMillimetres(field("art_y_mm"), Math.max(0, at.y - size("art_height_mm") / 2));
  document.body.dispatchEvent(new Event("art-moved"));
}

// Which form a tap on a piece is for: the one last typed in.
let typedIn = null;
document.addEventListener("focusin", (event) => { if (event.target.form) typedIn = event.target.form; });

// A tap on a piece: the print's middle goes there, or the raised part being drawn begins there.
function centrePrint(form, at) {
  if (typedIn && typedIn.id === "raised-form" && document.contains(typedIn)) {
    putMillimetres(typedIn.elements.namedItem("x_mm"), Math.max(0, at.x));
    putMillimetres(typedIn.elements.namedItem("y_mm"), Math.max(0, at.y));
    typedIn.elements.namedItem("width_mm").focus();
    return;
  }
  const size = (name) => millimetresIn(form.elements.namedItem(name));
  putMillimetres(form.elements.namedItem("print_x_mm"), Math.max(0, at.x - size("print_width_mm") / 2));
  putMillimetres(form.elements.namedItem("print_y_mm"), Math.max(0, at.y - size("print_depth_mm") / 2));
  document.body.dispatchEvent(new Event("placed"));
}

// A line or an area is tapped at both its ends: the second tap, and any after it, is its other end.
function placeMark(svg, form, at) {
  const field = (name) => form.elements.namedItem(name);
  const isLong = field("shape") && field("shape").value !== "point";
  const end = isLong && field("x_mm").value ? "2" : "";
  putMillimetres(field(`x${end}_mm`), at.x);
  putMillimetres(field(`y${end}_mm`), at.y);
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
  const size = (name) => millimetresIn(form.elements.namedItem(name));
  putMillimetres(form.elements.namedItem("art_x_mm"), at.x - size("art_width_mm") / 2);
  putMillimetres(form.elements.namedItem("art_y_mm"), at.y - size("art_height_mm") / 2);
  drawArt();
  document.body.dispatchEvent(new Event("placed"));
}

// The art on the small platen follows its four figures.
function drawArt() {
  const svg = document.querySelector("svg[data-mode=centre]");
  if (!svg) return;
  const form = document.getElementById(svg.dataset.tap);
  const value = (name) => millimetresIn(form.elements.namedItem(name));
  const scale = Number(svg.dataset.scale);
  const art = svg.querySelector("[data-art]");
  art.setAttribute("x", Number(svg.dataset.left) + value("art_x_mm") * scale);
  art.setAttribute("y", Number(svg.dataset.bottom) - (value("art_y_mm") + value("art_height_mm")) * scale);
  art.setAttribute("width", Math.max(0, value("art_width_mm") * scale));
  art.setAttribute("height", Math.max(0, value("art_height_mm") * scale));
}

document.addEventListener("input", (event) => { if (/^art_/.test(event.target.name || "")) drawArt(); });

// Another blank brings the art that covers it, about the same middle; what the page computes follows.
document.addEventListener("change", (event) => {
  const row = event.target.name === "blank" && event.target.selectedOptions && event.target.selectedOptions[0];
  if (!row || !row.dataset.artWidth) return;
  for (const [size, corner, mm] of [["width", "x", row.dataset.artWidth], ["height", "y", row.dataset.artHeight]]) {
    const field = (name) => event.target.form.elements.namedItem(`art_${name}_mm`);
    if (!field(size) || !field(corner)) return;
    const middle = millimetresIn(field(corner)) + millimetresIn(field(size)) / 2;
    putMillimetres(field(size), Number(mm));
    putMillimetres(field(corner), Math.max(0, middle - Number(mm) / 2));
  }
  drawArt();
}, true);

// A form that is chosen rather than filled sends itself.
document.addEventListener("change", (event) => {
  if (event.target.matches && event.target.matches("[data-send]")) event.target.form.requestSubmit();
});

// A new press's platen is drawn to scale as its size is typed, a sheet of paper on it: A4, or Letter for who types inches.
function drawPlaten() {
  const svg = document.querySelector("svg[data-platen]");
  if (!svg) return;
  const fields = document.getElementById(svg.dataset.platen).elements;
  const across = millimetresIn(fields.namedItem("width_mm")), deep = millimetresIn(fields.namedItem("height_mm"));
  if (across < 10 || deep < 10) return;
  const scale = Math.min(240 / across, 300 / deep), width = across * scale, height = deep * scale;
  const box = (part, x, y, w, h) => Object.entries({ x, y, width: w, height: h }).forEach(([k, v]) => part.setAttribute(k, v));
  const middle = 220, left = middle - width / 2, bottom = 320;
  const platen = svg.querySelector("[data-platen-shape]");
  box(platen, left, bottom - height, width, height);
  platen.removeAttribute("stroke-dasharray");
  const unit = lengthUnit(fields.namedItem("width_mm").form), paper = unit === "in" ? [215.9, 279.4] : [210, 297];
  const turned = across > deep ? [paper[1], paper[0]] : paper, sheet = svg.querySelector("[data-platen-sheet]");
  const fits = turned[0] <= across && turned[1] <= deep;
  box(sheet, middle - turned[0] * scale / 2, bottom - (height + turned[1] * scale) / 2, fits ? turned[0] * scale : 0, fits ? turned[1] * scale : 0);
  const said = (mm) => `${(unit === "in" ? mm / 25.4 : mm).toFixed(unit === "in" ? 1 : 0)} ${unit}`;
  svg.querySelector("[data-platen-width]").textContent = said(across);
  const depth = svg.querySelector("[data-platen-height]");
  depth.textContent = said(deep);
  depth.setAttribute("x", left - 8);
  depth.setAttribute("y", bottom - height / 2);
}
document.addEventListener("input", (event) => { if (/^(width|height)_mm$/.test(event.target.name || "")) drawPlaten(); });
document.addEventListener("DOMContentLoaded", drawPlaten);

// Clocks on every page count down from what the server said, and ring once: a tone, a shake, a button.
const clocks = { at: 0, heard: new Set() };
function waitText(seconds) {
  if (seconds <= 0) return "now";
  const whole = Math.ceil(seconds), pad = (n) => String(n).padStart(2, "0");
  const hours = Math.floor(whole / 3600), minutes = Math.floor(whole / 60) % 60;
  return hours ? `${hours}:${pad(minutes)}:${pad(whole % 60)}` : `${minutes}:${pad(whole % 60)}`;
}
function ring(key) {
  if (clocks.heard.has(key)) return;
  clocks.heard.add(key);
  if (navigator.vibrate) navigator.vibrate([300, 150, 300]);
  const sound = window.AudioContext && new AudioContext();
  if (!sound) return;
  const tone = sound.createOscillator();
  tone.frequency.value = 880;
  tone.connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.8);
}
function countDown() {
  const strip = document.getElementById("clocks");
  if (!strip) return;
  if (strip !== clocks.strip) { clocks.strip = strip; clocks.at = performance.now(); }
  for (const clock of strip.querySelectorAll("[data-clock]")) {
    const left = Number(clock.dataset.leftS) - (performance.now() - clocks.at) / 1000;
    clock.querySelector("[data-left]").textContent = waitText(left);
    clock.classList.toggle("ringing", left <= 0);
    const heard = clock.querySelector("[data-rings]");
    if (heard) heard.hidden = left > 0;
    if (left <= 0) ring(clock.dataset.clock);
  }
}
setInterval(countDown, 250);
document.addEventListener("DOMContentLoaded", countDown);
document.addEventListener("htmx:afterSettle", countDown);

// A list is narrowed as one types: rows whose name holds every word stay; what is folded away opens.
document.addEventListener("input", (event) => {
  const field = event.target;
  if (!field.matches || !field.matches("[data-find]")) return;
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  let left = 0;
  for (const row of document.querySelectorAll(field.dataset.find)) {
    row.hidden = !words.every((word) => row.dataset.name.includes(word));
    if (!row.hidden) left += 1;
  }
  for (const fold of document.querySelectorAll("[data-opens]")) fold.open = words.length > 0;
  const none = document.querySelector("[data-none]");
  if (none) none.hidden = left > 0;
});

// The verdict stays in view while fields below it are edited: once its heading has left, a bar repeats it.
function followVerdict() {
  const bar = document.querySelector("[data-verdict]");
  if (!bar) return;
  const heading = document.querySelector(bar.dataset.verdict);
  const text = heading ? heading.textContent.replace(/\s+/g, " ").trim() : "";
  if (bar.textContent !== text) bar.textContent = text;
  bar.hidden = !text || heading.getBoundingClientRect().bottom > 0;
}
document.addEventListener("scroll", followVerdict, { passive: true });
document.addEventListener("htmx:afterSettle", followVerdict);

document.addEventListener("DOMContentLoaded", drawArt);
