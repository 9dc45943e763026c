"""Labels of charts, as they lie on the page at the widths people have."""

WIDTHS = ((1280, 800), (820, 1180), (390, 844))
# Texts whose boxes meet by more than a rim, or that stick out of their drawing.
COVERED = """
const found = [];
for (const drawing of document.querySelectorAll("svg.chart")) {
  const frame = drawing.getBoundingClientRect();
  const texts = [...drawing.querySelectorAll("text")].filter((text) =>
    text.textContent.trim() && text.getClientRects().length);
  const boxes = texts.map((text) => [text.textContent.trim(), text.getBoundingClientRect()]);
  boxes.forEach(([name, box], at) => {
    if (box.left < frame.left - 3 || box.right > frame.right + 3) found.push(`${name}, cut off`);
    for (const [other, its] of boxes.slice(at + 1)) {
      const across = Math.min(box.right, its.right) - Math.max(box.left, its.left);
      const down = Math.min(box.bottom, its.bottom) - Math.max(box.top, its.top);
      const enough = 0.35 * Math.min(box.height, its.height);
      if (across > 2 && down > enough) found.push(`${name} over ${other}`);
    }
  });
}
return found;
"""


def covered_labels(driver):
    """What covers what on the open page, at each width; the desk's width is back afterwards."""
    if not driver.execute_script("return document.querySelector('svg.chart text') !== null"):
        return []
    found = []
    for width, height in WIDTHS:
        resize(driver, width, height)
        found += [f"at {width}: {text}" for text in driver.execute_script(COVERED)]
    resize(driver, *WIDTHS[0])
    return found


def resize(driver, width, height):
    """Another window, a phone's where it is narrow."""
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 700}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
