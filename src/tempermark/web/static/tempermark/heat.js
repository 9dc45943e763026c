// The page of the heat: layers of the stack and the art on the platen are dragged; the advised dial is
// taken with a tap. All of it can also be done with the buttons and figures beside it.
"use strict";

const LEAST_MOVE = 6;
let dragged = null;

function pointIn(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

document.addEventListener("pointerdown", (event) => {
  const found = event.target.closest && event.target.closest("[data-layer], [data-art], [data-art-size]");
  const svg = found && found.closest("svg");
  if (!svg || event.button !== 0 || !document.getElementById("heat-form")) return;
  const kind = found.hasAttribute("data-layer") ? "layer" : found.hasAttribute("data-art") ? "art" : "size";
  dragged = { kind, part: found, svg, from: pointIn(svg, event), moved: false };
  svg.setPointerCapture(event.pointerId);
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const at = pointIn(dragged.svg, event);
  const dx = at.x - dragged.from.x, dy = at.y - dragged.from.y;
  if (Math.hypot(dx, dy) > LEAST_MOVE) dragged.moved = true;
  if (dragged.kind === "layer") dragged.part.setAttribute("transform", `translate(0 ${dy.toFixed(1)})`);
  else showArt(dragged.svg, dragged.kind, dx, dy);
});

document.addEventListener("pointerup", (event) => {
  if (!dragged) return;
  const { kind, part, svg, from, moved } = dragged;
  const at = pointIn(svg, event);
  dragged = null;
  if (!moved) { if (kind === "layer") part.removeAttribute("transform"); return; }
  // The tap that ends a drag is none.
  svg.dataset.justDragged = "1";
  window.setTimeout(() => delete svg.dataset.justDragged, 0);
  if (kind === "layer") dropLayer(part, svg, at.y - from.y);
  else dropArt(svg, kind, at.x - from.x, at.y - from.y);
});

document.addEventListener("pointercancel", () => {
  if (dragged && dragged.kind === "layer") dragged.part.removeAttribute("transform");
  dragged = null;
});

// A layer takes the place of the one over whose middle it was let go.
function dropLayer(part, svg, dy) {
  const layers = [...svg.querySelectorAll("[data-layer]")];
  const middle = (layer) => { const box = layer.querySelector("rect").getBBox(); return box.y + box.height / 2; };
  const at = middle(part) + dy;
  const others = layers.filter((layer) => layer !== part);
  const above = others.filter((layer) => middle(layer) < at);
  const next = above.length ? Number(above[above.length - 1].dataset.layer) : -1;
  const from = Number(part.dataset.layer);
  const to = next < from ? next + 1 : next;
  part.removeAttribute("transform");
  if (to === from) return;
  const button = document.getElementById("stack-op");
  button.value = `move:${from}:${to}`;
  button.click();
}

function artField(name) { return document.getElementById("heat-form").elements.namedItem(`art_${name}`); }
function artValue(name) { return millimetresIn(artField(name)); }

function showArt(svg, kind, dx, dy) {
  const art = svg.querySelector("[data-art]"), handle = svg.querySelector("[data-art-size]");
  const scale = Number(svg.dataset.scale);
  if (kind === "art") {
    for (const part of [art, handle]) part.setAttribute("transform", `translate(${dx.toFixed(1)} ${dy.toFixed(1)})`);
    return;
  }
  // The back right corner is pulled: width and depth follow, the front left stays.
  const width = Math.max(5, artValue("width_mm") * scale + dx), height = Math.max(5, artValue("height_mm") * scale - dy);
  const bottom = Number(svg.dataset.bottom) - artValue("y_mm") * scale;
  art.setAttribute("width", width);
  art.setAttribute("height", height);
  art.setAttribute("y", bottom - height);
  handle.setAttribute("transform", `translate(${dx.toFixed(1)} ${dy.toFixed(1)})`);
}

function dropArt(svg, kind, dx, dy) {
  const scale = Number(svg.dataset.scale);
  const [first, second] = kind === "art" ? ["x_mm", "y_mm"] : ["width_mm", "height_mm"];
  const least = kind === "art" ? 0 : 5;
  putMillimetres(artField(first), Math.max(least, artValue(first) + dx / scale));
  putMillimetres(artField(second), Math.max(least, artValue(second) - dy / scale));
  // Only where the art lies has changed: nothing but the outcome over the platen follows.
  document.body.dispatchEvent(new Event("art-moved"));
}

document.addEventListener("click", (event) => {
  const take = event.target.closest && event.target.closest("[data-take]");
  if (!take) return;
  const dial = document.getElementById("heat-form").elements.namedItem("set_c");
  dial.value = parseFloat(take.dataset.take);
  dial.dispatchEvent(new Event("change", { bubbles: true }));
});

// What hangs on the setting is computed again once the answer stands; the moment alone changes nothing.
let lastAsked = "";
// What takes longest waits until the platen stands, so as not to slow it.
let restDue = true;
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.target.id !== "heat-platen" || !restDue) return;
  restDue = false;
  document.body.dispatchEvent(new Event("settled"));
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "heat" && !(event.detail.target && event.detail.target.id === "heat")) return;
  const query = new FormData(document.getElementById("heat-form"));
  for (const name of ["at_s", "was", "material"]) query.delete(name);
  const now = new URLSearchParams(query).toString();
  if (now !== lastAsked) {
    restDue = true;
    document.body.dispatchEvent(new Event("summary"));
  }
  lastAsked = now;
});
