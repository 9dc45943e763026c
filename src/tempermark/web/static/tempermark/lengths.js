// Lengths in a form's own units: typed as 120, 4 3/4, 4.7 in or 12 cm; millimetres for drawings.
"use strict";

const MM_OF = { "": 0, mm: 1, cm: 10, m: 1000, in: 25.4, inch: 25.4, inches: 25.4, "\"": 25.4, "″": 25.4 };
const LENGTH = /^\s*([-−])?(?:(\d+)\s+)?(?:(\d+)\s*\/\s*(\d+)|([\d.,]+))\s*([a-z"″]*)\s*$/i;

function lengthUnit(form) {
  const units = form.elements.namedItem("units");
  return units && units.value && units.value.split("-")[1] === "in" ? "in" : "mm";
}

// What a field says, in mm; 0 where it says nothing that is understood.
function millimetresIn(field) {
  const match = LENGTH.exec(field.value);
  if (!match || (match[2] && match[5])) return 0;
  const number = match[5] ? parseFloat(match[5].replace(",", ".")) : Number(match[2] || 0) + Number(match[3]) / Number(match[4]);
  const size = (number * (MM_OF[match[6].toLowerCase()] || MM_OF[lengthUnit(field.form)])) || 0;
  return match[1] ? -size : size;
}

// The smallest step that a field shows, mm.
function stepMillimetres(field) { return lengthUnit(field.form) === "mm" ? 1 : MM_OF.in / 16; }

// A length put into a field: whole millimetres, or inches to a sixteenth.
function putMillimetres(field, mm) {
  if (lengthUnit(field.form) === "mm") { field.value = mm.toFixed(0); return; }
  const parts = Math.round(Math.abs(mm) / 25.4 * 16), whole = Math.floor(parts / 16);
  let top = parts % 16, bottom = 16;
  while (top && top % 2 === 0) { top /= 2; bottom /= 2; }
  const fraction = top ? `${top}/${bottom}` : "";
  field.value = (mm < 0 && parts ? "-" : "") + (whole || !top ? `${whole} ${fraction}`.trim() : fraction);
}
