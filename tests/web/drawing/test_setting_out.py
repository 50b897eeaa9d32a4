"""The card's drawing: every mark with its number, to scale, none beyond the paper."""

import re

from fairline.core.mount.setting_out import Card, Mark
from fairline.web.drawing.setting_out import WIDTH, marks_drawn


def card(*marks):
    return Card(title="Head A", along="from the left", up="above the floor", marks=marks)


def test_every_number_stands_once_and_on_the_paper():
    marks = [
        Mark(what="centre", along_m=2.2),
        Mark(what="underside", up_m=2.4),
        Mark(what="screw", along_m=1.8, up_m=2.6),
        Mark(what="hole", along_m=2.55, up_m=2.46),
        Mark(what="pilot", along_m=2.55, up_m=2.46),
        Mark(what="outside", along_m=2.55, up_m=2.45),
    ]
    drawn = str(marks_drawn(card(*marks)))
    told = re.findall(r'<text x="([-\d.]+)" y="[-\d.]+"[^>]*>([^<]+)<', drawn)
    assert sorted(n for _, words in told for n in words.split()) == ["1", "2", "3", "4", "5", "6"]
    assert all(float(x) >= 0 and float(x) + 8 * len(words) <= WIDTH for x, words in told)
    crosses = [tuple(map(float, at)) for at in re.findall(r'd="M([\d.]+) ([\d.]+)h14', drawn)]
    (x1, y1), (x2, y2) = crosses
    assert abs((x2 - x1) / (y2 - y1) - (2.55 - 1.8) / (2.6 - 2.46)) < 0.1  # one scale both ways


def test_too_few_marks_are_not_drawn():
    assert marks_drawn(card(Mark(what="base", up_m=0.5))) == ""
