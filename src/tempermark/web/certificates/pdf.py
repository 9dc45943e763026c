"""A certificate as a PDF of one or more A4 pages, drawn from its frozen content."""

import re
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer

from tempermark.web.certificates.content import facts, readings, shown_in
from tempermark.web.certificates.models import Certificate
from tempermark.web.kit.drawing.pdf import REGULAR, pdf_of, pdf_table, pdf_text, plain
from tempermark.web.kit.units import Units

CHART_WIDTH_MM = 112
INK, BELOW, ABOVE, PINE = "#1b2326", "#2b5a91", "#a8490f", "#14584a"
COLOUR = {"below": BELOW, "above": ABOVE, "target": INK}
_STEP = re.compile(r"([MLHVZ])\s*((?:-?[\d.]+[\s,]*)*)")


class Drawing(Flowable):
    """The platen chart, from the same paths as on the page."""

    def __init__(self, chart: dict[str, Any]) -> None:
        super().__init__()
        self.chart = chart
        self.scale = CHART_WIDTH_MM * mm / chart["width"]
        self.width, self.height = CHART_WIDTH_MM * mm, chart["height"] * self.scale

    def draw(self) -> None:
        """Draw with y turned up, as PDF has it."""
        canvas, chart = self.canv, self.chart
        canvas.scale(self.scale, self.scale)
        frame = chart["frame"]
        bottom = chart["height"] - frame["y"] - frame["height"]
        canvas.setLineWidth(1.6)
        canvas.rect(frame["x"], bottom, frame["width"], frame["height"])
        canvas.setLineWidth(1)
        for area in chart["hatched"]:
            canvas.setFillColor(COLOUR[area["kind"]], alpha=0.25)
            canvas.drawPath(self._path(area["path"]), stroke=0, fill=1)
        for line in chart["lines"]:
            canvas.setStrokeColor(COLOUR[line["kind"]])
            canvas.drawPath(self._path(line["path"]))
        canvas.setStrokeColor(PINE)
        canvas.setLineWidth(4)
        for corner in chart["corners"]:
            canvas.drawPath(self._path(corner))
        canvas.setFillColor(INK, alpha=1)
        canvas.setFont(REGULAR, 13)
        for text in (*chart["labels"], *chart["rulers"]):
            end = text["anchor"] == "end"
            say = canvas.drawRightString if end else canvas.drawCentredString
            say(text["x"], self._up(text["y"]), plain(text["text"]))
        for station in chart["stations"]:
            if station["figure"]:
                place = station["x"], self._up(station["y"])
                canvas.drawCentredString(place[0], place[1] + 7, plain(station["figure"]))
                canvas.circle(*place, 2, stroke=0, fill=1)

    def _up(self, y: float) -> float:
        return float(self.chart["height"] - y)

    def _path(self, text: str) -> Any:
        path, x, y = self.canv.beginPath(), 0.0, 0.0
        for letter, figures in _STEP.findall(text):
            if letter == "Z":
                path.close()
                continue
            numbers = [float(v) for v in re.findall(r"-?[\d.]+", figures)]
            if letter == "H":
                x = numbers[0]
            elif letter == "V":
                y = numbers[0]
            else:
                x, y = numbers[:2]
            (path.moveTo if letter == "M" else path.lineTo)(x, self._up(y))
        return path


def as_pdf(certificate: Certificate, units: Units) -> bytes:
    """The certificate's pages in its reader's units."""
    content, shown, said = certificate.content, shown_in(certificate, units), pdf_text
    parts = [
        said(f"Calibration certificate {certificate.title}", "Title"),
        said(f"{content['element']}: {shown['sentence']}", "Heading3"),
        said(shown["how_sure"]),
        *[said(f"Caution: {text}") for text in shown["cautions"]],
        Spacer(1, 4 * mm),
        Drawing(shown["chart"]),
        said(shown["caption"]),
        Spacer(1, 3 * mm),
        pdf_table([[said(a), said(b)] for a, b in facts(certificate, units)], (52 * mm, 118 * mm)),
        said("Readings", "Heading3"),
        pdf_table([[said(c) for c in row] for row in readings(content, units)], (28 * mm,) * 6),
        Spacer(1, 3 * mm),
        said(f"SHA-256 of the content: {certificate.sha256}", "Code"),
    ]
    return pdf_of(f"Calibration certificate {certificate.title}", parts)
