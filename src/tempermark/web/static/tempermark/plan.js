// The day band: a run dragged to another press or place asks for a plan with it there.
(() => {
  const FAR = 8;
  let drag = null;

  const at = (svg, event) =>
    new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());

  document.addEventListener("pointerdown", (event) => {
    const run = event.target.closest && event.target.closest("svg[data-band] a[data-stage]");
    if (!run || event.button || !document.getElementById("move-form")) return;
    const svg = run.closest("svg");
    drag = { run, svg, from: at(svg, event), moved: false };
  });

  // A link is dragged by the browser itself unless it is told not to.
  document.addEventListener("dragstart", (event) => {
    if (event.target.closest && event.target.closest("svg[data-band]")) event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const to = at(drag.svg, event), x = to.x - drag.from.x, y = to.y - drag.from.y;
    if (!drag.moved && Math.hypot(x, y) < FAR) return;
    drag.moved = true;
    drag.run.setAttribute("transform", `translate(${x} ${y})`);
    drag.run.classList.add("dragged");
  });

  document.addEventListener("pointerup", (event) => {
    if (!drag) return;
    const { run, svg, from, moved } = drag;
    drag = null;
    if (!moved) return;
    const to = at(svg, event);
    const middle = Number(run.dataset.middle) + to.x - from.x;
    const row = [...svg.querySelectorAll("g[data-press]")].filter((g) => Number(g.dataset.top) <= to.y).pop();
    run.addEventListener("click", (click) => click.preventDefault(), { once: true });
    if (!row) {
      run.removeAttribute("transform");
      return;
    }
    const before = [...row.querySelectorAll("a[data-stage]")]
      .filter((other) => other !== run && Number(other.dataset.middle) < middle).pop();
    const form = document.getElementById("move-form");
    form.action = `${svg.dataset.runs}${run.dataset.stage}/`;
    form.elements.namedItem("place").value = `${row.dataset.press} ${before ? before.dataset.stage : ""}`;
    form.requestSubmit();
  });

  document.addEventListener("pointercancel", () => {
    if (drag) drag.run.removeAttribute("transform");
    drag = null;
  });
})();
