"""QR codes: as text for a terminal, as SVG for a page."""

from __future__ import annotations

from django.utils.html import format_html
from django.utils.safestring import SafeString
from qrcode.constants import ERROR_CORRECT_M
from qrcode.main import QRCode

QUIET = 4
"""The empty edge that a reader needs, in modules. Source: ISO/IEC 18004."""


def code_of(text: str) -> QRCode:
    """The code of a text, with its quiet edge."""
    code = QRCode(border=QUIET, error_correction=ERROR_CORRECT_M)
    code.add_data(text)
    code.make(fit=True)
    return code


def svg_of(text: str) -> SafeString:
    """The code as one path, black on white whatever the page's colours are: a reader needs both."""
    rows = code_of(text).get_matrix()
    dark = "".join(f"M{x} {y}h1v1h-1z" for y, row in enumerate(rows) for x, full in enumerate(row) if full)
    shape = (
        '<svg class="code" viewBox="0 0 {0} {0}" role="img" aria-label="QR code of {1}" shape-rendering="crispEdges">'
    )
    shape += '<path fill="#fff" d="M0 0h{0}v{0}h-{0}z"/><path fill="#000" d="{2}"/></svg>'
    return format_html(shape, len(rows), text, dark)
