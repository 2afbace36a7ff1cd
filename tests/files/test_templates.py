"""What all pages written by the program have in common."""

import pytest

from cinetica.files.templates import _environment


@pytest.mark.parametrize(
    ("source", "page"),
    [
        ("<b>{{ text }}</b>", "<b>a &lt;i&gt; &amp; b</b>"),
        # A name in a style sheet cannot end its string.
        ('content: "{{ text | css }}"', 'content: "a \\00003ci\\00003e \\000026 b"'),
        # A line with nothing but a block leaves no blank line.
        ("a\n  {% if text %}\nb\n  {% endif %}\nc", "a\nb\nc"),
    ],
)
def test_text_is_escaped_and_blocks_leave_no_blank_lines(source, page):
    assert _environment().from_string(source).render(text="a <i> & b") == page
