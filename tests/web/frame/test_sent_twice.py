"""What is pressed twice is kept once: by a page's script, or by the form's own mark."""

import re

from tests.web.readings.test_instruments import charged

ONCE = re.compile(r'name="_once" value="([0-9a-f]{24})"')


def shown(client, page):
    return ONCE.search(client.get(page).text).group(1)


def test_an_act_pressed_twice_without_scripts_is_kept_once(demo):
    """The mark is of one form on one page; filled in otherwise, it is another act."""
    charged(demo, 2)
    form = {"before_kg": "9.5 kg", "after_kg": "9.0 kg", "way": "in", "by": "Ida"}
    form |= {"_done": "1 min", "_once": shown(demo, "/jobs/2/charge")}
    there = {"referer": "http://127.0.0.1:8000/jobs/2/charge"}

    def weighings():
        records = demo.get("/api/jobs/2").json()["records"]
        return sum(r["kind"] == "weighing" for r in records)

    before = weighings()
    for _ in range(2):
        answer = demo.post("/jobs/2/charge/weighings", data=form, headers=there)
        assert answer.status_code == 200 and answer.url.path == "/jobs/2/charge"
    assert weighings() == before + 1
    demo.post("/jobs/2/charge/weighings", data=form | {"before_kg": "9.4 kg"}, headers=there)
    assert weighings() == before + 2
    demo.post("/jobs/2/charge/weighings", data=form | {"_once": shown(demo, "/jobs/2/charge")})
    assert weighings() == before + 3
    # What was refused was not kept: it may be sent again.
    wrong = form | {"by": "", "_once": shown(demo, "/jobs/2/charge")}
    for _ in range(2):
        assert demo.post("/jobs/2/charge/weighings", data=wrong).status_code == 422


def test_a_new_job_and_a_picture_sent_twice_are_one(demo):
    new = {"name": "Twice", "_once": shown(demo, "/jobs/new")}
    for _ in range(2):
        demo.post("/jobs/new", data=new)
    assert [j["name"] for j in demo.get("/api/jobs").json()].count("Twice") == 1


def test_every_act_of_a_page_has_its_mark(demo):
    forms = re.compile(r'<form method="post"(?![^>]*class="entry")(.*?)</form>', re.S)
    alone = ("/preferences", "/undo", "/redo")
    for page in ("/jobs/4/flare", "/jobs/4/evacuate", "/jobs/9/wire?part=power", "/jobs/new"):
        found = forms.findall(demo.get(page).text)
        acts = [f for f in found if not any(end in f.split(">")[0] for end in alone)]
        assert acts and all(len(ONCE.findall(act)) == 1 for act in acts), page
