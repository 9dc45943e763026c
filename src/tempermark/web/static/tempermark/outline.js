// The blank's outline on its art: dragged with a finger or the mouse, moved by the arrow keys, far with Shift.
// The drawing's units are millimetres; the form named by data-outline holds them and sends itself.
(() => {
  let drag = null;

  const parts = (svg) => {
    const form = document.getElementById(svg.dataset.outline);
    return { left: form.elements.namedItem("left_mm"), top: form.elements.namedItem("top_mm"), mark: svg.querySelector("[data-moves]") };
  };

  const pointIn = (svg, event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return [at.x, at.y];
  };

  const move = (svg, left, top) => {
    const { left: across, top: down, mark } = parts(svg);
    mark.setAttribute("transform", `translate(${left} ${top})`);
    putMillimetres(across, left);
    putMillimetres(down, top);
  };

  const send = (svg) => parts(svg).left.dispatchEvent(new Event("change", { bubbles: true }));

  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest && event.target.closest("svg[data-outline]");
    if (!svg) return;
    const { left, top } = parts(svg);
    const [x, y] = pointIn(svg, event);
    drag = { svg, dx: millimetresIn(left) - x, dy: millimetresIn(top) - y, moved: false };
    svg.setPointerCapture(event.pointerId);
    event.preventDefault();
    svg.focus();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const [x, y] = pointIn(drag.svg, event);
    drag.moved = true;
    move(drag.svg, x + drag.dx, y + drag.dy);
  });

  for (const name of ["pointerup", "pointercancel"]) document.addEventListener(name, () => {
    if (drag && drag.moved) send(drag.svg);
    drag = null;
  });

  const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  document.addEventListener("keydown", (event) => {
    const svg = event.target.closest && event.target.closest("svg[data-outline]");
    const step = svg && STEPS[event.key];
    if (!step) return;
    event.preventDefault();
    const { left, top } = parts(svg);
    const far = (event.shiftKey ? 10 : 1) * stepMillimetres(left);
    move(svg, millimetresIn(left) + far * step[0], millimetresIn(top) + far * step[1]);
    svg.dataset.pending = "yes";
  });

  // Keys are sent once they rest: at the key's release.
  document.addEventListener("keyup", (event) => {
    const svg = event.target.closest && event.target.closest("svg[data-outline]");
    if (!svg || !svg.dataset.pending) return;
    delete svg.dataset.pending;
    send(svg);
  });

  // The drawing was made again by the answer: the keys stay with it.
  let held = false;
  document.addEventListener("htmx:beforeSwap", () => { held = !!(document.activeElement && document.activeElement.closest("svg[data-outline]")); });
  document.addEventListener("htmx:afterSwap", () => {
    const svg = document.querySelector("svg[data-outline]");
    if (held && svg) svg.focus();
  });
})();
