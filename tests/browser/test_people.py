"""Two people and an electrician on phones: signed in, let in by a link, out again, let in anew."""

import re
import subprocess
import sys

from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE, SIZES, menu

PASSWORD = "correct horse staple"


def commanded(folder, *words: str) -> None:
    """What an owner types on the computer itself, the password on standard input."""
    command = [sys.executable, "-m", "fairline.cli", "people", *words, "--data", str(folder)]
    subprocess.run(command, input=f"{PASSWORD}\n", text=True, check=True, capture_output=True)


def sign_in(page: Page, base: str, name: str, password: str = PASSWORD) -> None:
    page.goto(f"{base}/sign-in")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def another(site) -> Page:
    """Another phone, which knows nothing of the first."""
    width, height = SIZES["phone"]
    context = site.page.context.browser.new_context(
        viewport={"width": width, "height": height}, has_touch=True, is_mobile=True
    )
    page = context.new_page()
    page.set_default_timeout(20_000)
    page.on("console", lambda m: m.type == "error" and site.wrong.append(m.text))
    page.on("request", lambda r: r.url.startswith((site.base, "data:")) or site.wrong.append(r.url))
    return page


def invited(page: Page, base: str, name: str, role: str, job: str = "") -> str:
    page.goto(f"{base}/people")
    page.get_by_label("Name").fill(name)
    page.get_by_label(role, exact=True).check()
    page.get_by_label("Electrician: the number of the job").fill(job)
    page.get_by_role("button", name="Make the link").click()
    return page.locator("#link").inner_text()


def joined(page: Page, link: str) -> None:
    page.goto(link)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_label("Once more").fill(PASSWORD)
    page.get_by_role("button", name="Keep it and sign in").click()


@PHONE
def test_a_crew_is_let_in_by_links_and_each_does_what_is_theirs(demo_site, tmp_path):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    page.goto(base)
    expect(page.locator(".job-row").first).to_be_visible()  # nobody was made: all is open here
    commanded(tmp_path / "data", "add", "Ida Marsh", "--role", "owner")
    page.goto(f"{base}/jobs/6/wire")
    expect(page).to_have_url(re.compile(r"/sign-in\?back=/jobs/6/wire"))
    page.get_by_label("Name").fill("Ida Marsh")
    page.get_by_label("Password").fill("wrong")
    page.get_by_role("button", name="Sign in").click()
    expect(page.locator("#e-password")).to_contain_text("name or password is wrong")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_text("Show what is typed").tap()
    expect(page.get_by_label("Password")).to_have_attribute("type", "text")
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile("/jobs/6/wire"))
    menu(page)
    expect(page.get_by_role("link", name="Ida Marsh")).to_be_visible()

    bo = another(demo_site)
    joined(bo, invited(page, base, "Bo Lind", "Installer"))
    expect(bo.locator(".job-row").first).to_be_visible()
    bo.goto(f"{base}/jobs/9/hand-over")
    bo.goto(f"{base}/people")
    expect(bo.locator("main")).to_contain_text("Only an owner lets people in")
    demo_site.wrong[:] = [w for w in demo_site.wrong if "403" not in w]

    spark = another(demo_site)
    joined(spark, invited(page, base, "Sam Volt", "Electrician of another firm, one job", "6"))
    spark.goto(f"{base}/jobs/6/wire")
    expect(spark.get_by_role("heading", level=1)).to_contain_text("Gallery")
    spark.goto(f"{base}/jobs/7/wire")
    expect(spark.locator("main")).to_contain_text("there is no such job")
    demo_site.wrong[:] = [w for w in demo_site.wrong if "404" not in w]

    page.goto(f"{base}/people")
    box = page.locator("section").filter(has_text="Bo Lind")
    box.get_by_role("button", name="May not sign in any more").click()
    expect(page.locator("section").filter(has_text="Bo Lind")).to_contain_text("may not sign in")
    bo.goto(base)
    expect(bo).to_have_url(re.compile("/sign-in"))
    for phone in (bo, spark):
        phone.context.close()


@PHONE
def test_a_forgotten_password_is_made_anew_on_the_computer(demo_site, tmp_path):
    page, base = demo_site.page, demo_site.base
    demo_site.refusals = True
    commanded(tmp_path / "data", "add", "Ida Marsh", "--role", "owner")
    for _ in range(6):
        sign_in(page, base, "ida marsh", "forgotten it")
    expect(page.locator("#e-password")).to_contain_text("too many wrong tries: wait")
    commanded(tmp_path / "data", "reset", "Ida Marsh")
    sign_in(page, base, "ida marsh")
    expect(page.locator(".job-row").first).to_be_visible()
    page.goto(f"{base}/me")
    page.get_by_label("What for").fill("Gauge")
    page.get_by_role("button", name="Make a token").click()
    expect(page.locator("#token")).to_have_text(re.compile(r"\S{40,}"))
    page.get_by_role("button", name="Sign out").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    page.goto(base)
    expect(page).to_have_url(re.compile("/sign-in"))


@PHONE
def test_what_waits_goes_out_as_whoever_recorded_it(demo_site, tmp_path):
    """Ida's session ends in the cellar; Bo takes the phone; then Ida has it back."""
    page, base = demo_site.page, demo_site.base
    for name, role in (("Ida Marsh", "owner"), ("Bo Lind", "installer")):
        commanded(tmp_path / "data", "add", name, "--role", role)

    def joints():
        records = page.request.get(f"{base}/api/jobs/9").json()["records"]
        return [r["by"] for r in records if r["kind"] == "joint"]

    sign_in(page, base, "Ida Marsh")
    expect(page.locator(".job-row").first).to_be_visible()
    page.goto(f"{base}/jobs/9/flare")
    page.get_by_label("The wrench read", exact=True).fill("28 lbf·ft")
    page.context.clear_cookies(name="fairline_session")
    page.locator(".act").tap()
    expect(page).to_have_url(re.compile(r"/sign-in\?back=/jobs/9/flare"))
    waits = page.locator("#unsent")
    expect(waits).to_contain_text(
        "1 recorded here not sent yet: it goes out when that person signs in"
    )
    expect(waits.locator("li")).to_have_count(0)  # what it is is not for others
    sign_in(page, base, "Bo Lind")
    expect(page.locator(".job-row").first).to_be_visible()
    page.goto(f"{base}/jobs/9/flare")
    expect(waits).to_contain_text("1 recorded here by somebody else")
    assert joints() == []
    expect(waits.get_by_role("button", name="Throw away what others left")).to_be_visible()
    page.goto(f"{base}/me")
    page.get_by_role("button", name="Sign out").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    sign_in(page, base, "Ida Marsh")
    expect(page.locator(".job-row").first).to_be_visible()
    expect(waits).to_have_count(0)
    assert joints() == ["Ida Marsh"]
    demo_site.wrong[:] = [w for w in demo_site.wrong if not re.search("401|htmx:", w)]


@PHONE
def test_a_passkey_is_made_signs_in_and_is_ended(demo_site, tmp_path):
    """By a virtual authenticator of the browser; passkeys need a name, not a number."""
    commanded(tmp_path / "data", "add", "Ida Marsh", "--role", "owner")
    page, base = demo_site.page, demo_site.base.replace("127.0.0.1", "localhost")
    demo_site.refusals = True
    told = page.context.new_cdp_session(page)
    told.send("WebAuthn.enable")
    phone = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True}
    phone |= {"hasUserVerification": True, "isUserVerified": True}
    told.send("WebAuthn.addVirtualAuthenticator", {"options": phone})
    page.goto(f"{demo_site.base}/sign-in")
    expect(page.get_by_role("button", name="With a passkey")).to_be_hidden()
    sign_in(page, base, "Ida Marsh")
    page.goto(f"{base}/me")
    page.get_by_role("button", name="Make one on this device").click()
    expect(page.get_by_role("button", name="End it")).to_have_count(1)
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="With a passkey").click()
    page.wait_for_url(f"{base}/")
    page.goto(f"{base}/me")
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_role("button", name="End it")).to_have_count(0)
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="With a passkey").click()
    expect(page.locator("#passkey-told")).to_contain_text("This passkey is not known here")
    # The same server by its name is no other host.
    demo_site.wrong[:] = [w for w in demo_site.wrong if not w.startswith(base)]
