"""Text in XML comes back as it was."""

from xml.etree import ElementTree

import pytest

from drelo.formats.xml_text import attribute, text


@pytest.mark.parametrize(
    "value",
    ["plain", "a < b & c > d", "\"double\" and 'single'", "two\nlines\tand a tab", "é “ü”"],
)
def test_what_is_written_is_read_back(value):
    read = ElementTree.fromstring(f"<a b={attribute(value)}>{text(value)}</a>")
    assert read.get("b") == value
    assert read.text == value
