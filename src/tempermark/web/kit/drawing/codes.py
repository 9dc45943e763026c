"""QR codes that open an address."""

import io

import segno
from django.http import HttpResponse


def code_picture(address: str) -> io.BytesIO:
    """The code of an address as a PNG, to be drawn on paper."""
    picture = io.BytesIO()
    segno.make(address, error="m").save(picture, kind="png", scale=6, border=1)
    picture.seek(0)
    return picture


def code_response(address: str) -> HttpResponse:
    """The code of an address as an SVG."""
    out = io.BytesIO()
    segno.make(address, error="m").save(out, kind="svg", scale=4, border=2, xmldecl=False)
    return HttpResponse(out.getvalue(), content_type="image/svg+xml")
