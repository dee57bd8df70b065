"""A studio in which everybody signs in: from the first owner to two people on one job."""

import shutil

import pytest
from playwright.sync_api import expect

from harnet.standins.studio import open_studio
from harnet.store.database import migrate
from harnet.studio.common.settings import Settings
from harnet.studio.jobs.jobs import NewJob, job_with, make_job
from harnet.studio.layout.placing import place_picture
from harnet.studio.people.people import add_person, person_named, set_groups
from harnet.studio.people.roles import Role
from harnet.studio.pictures.importing import import_picture
from harnet.studio.pictures.shelves import shelf_named
from tests.e2e.conftest import (
    KEPT_PICTURES,
    answer_shown,
    follow,
    middle,
    serious_faults,
    served,
)
from tests.support.databases import new_database
from tests.support.people import PASSWORD

_NEW = "nine lamps under the stair"


@pytest.fixture
def studio_alone(filled, tmp_path):
    """A studio of its own with a job of one picture, far below its target; nobody signs in yet.

    The address, and the settings.
    """
    with new_database("people") as url:
        migrate(url)
        settings = Settings(url, tmp_path / "data")
        studio = open_studio(settings)
        with studio.session() as session, (KEPT_PICTURES / "fog-signal.jpg").open("rb") as file:
            shelf = shelf_named(studio, session, "Tarnholm shelf")
            picture = import_picture(studio, session, shelf, "fog-signal.jpg", file)
            job = make_job(session, NewJob.measured("Quay flyer", 148, 210))
            item = place_picture(session, job, job.pages[0], picture)
            item.width_pt, item.height_pt = 400.0, 300.0
            item.scale_x = item.scale_y = 1.0
        with served(settings) as address:
            yield address, settings
        studio.engine.dispose()
    shutil.rmtree(tmp_path / "data")


@pytest.fixture
def people(studio_alone):
    """The same with an owner, a designer and a reviewer."""
    address, settings = studio_alone
    studio = open_studio(settings)
    with studio.session() as session:
        for name, role in (
            ("Ada Lind", Role.OWNER),
            ("Bo Quill", Role.DESIGNER),
            ("Cleo Marsh", Role.REVIEWER),
        ):
            add_person(session, name, role, PASSWORD).must_change_password = False
    yield address, studio
    studio.engine.dispose()


@pytest.fixture
def seat(browser):
    """Opens browsers that share nothing, each a page at an address."""
    opened = []

    def sit(address):
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        opened.append(context)
        page = context.new_page()
        page.set_default_timeout(90_000)
        return page

    yield sit
    for context in opened:
        context.close()


def sign_in(page, name, password=PASSWORD):
    page.goto("/sign-in")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    follow(page.get_by_role("button", name="Sign in"))


def made_password(page, name):
    return page.get_by_label(f"Password of {name}").input_value()


def test_from_nobody_to_a_designer_with_a_password_of_their_own(studio_alone, seat):
    address, _ = studio_alone
    ada = seat(address)
    ada.goto("/people")
    expect(ada.locator("main")).to_contain_text("nobody has to sign in yet")
    ada.get_by_label("Name", exact=True).fill("Ada Lind")
    follow(ada.get_by_role("button", name="Add the first owner"))
    first = made_password(ada, "Ada Lind")
    follow(ada.get_by_role("link", name="Sign in as Ada Lind"))
    sign_in(ada, "Ada Lind", first)
    change_password(ada, first)
    ada.goto("/people")
    ada.get_by_label("Name", exact=True).fill("Bo Quill")
    ada.locator(".person-form [name=role]").select_option("designer")
    follow(ada.get_by_role("button", name="Add person"))
    second = made_password(ada, "Bo Quill")

    bo = seat(address)
    bo.goto("/pictures?words=fog")
    expect(bo.get_by_role("heading", name="Sign in")).to_be_visible()
    bo.get_by_label("Name").fill("bo quill")
    bo.get_by_label("Password").fill("not the password")
    follow(bo.get_by_role("button", name="Sign in"))
    expect(bo.get_by_role("alert")).to_contain_text("do not belong together")
    bo.get_by_label("Password").fill(second)
    follow(bo.get_by_role("button", name="Sign in"))
    change_password(bo, second)
    bo.goto("/jobs")
    follow(bo.locator(".job-row", has_text="Quay flyer"))
    expect(bo.locator("#canvas")).to_be_visible()

    # Disabled, they are out with the next click.
    ada.reload()
    follow(ada.get_by_role("button", name="Disable: Bo Quill"))
    bo.goto("/jobs")
    expect(bo.get_by_role("heading", name="Sign in")).to_be_visible()


def change_password(page, current):
    expect(page.get_by_role("heading", name="Choose your own password")).to_be_visible()
    page.get_by_label("Current password").fill(current)
    page.get_by_label("New password, 12 characters or more").fill(_NEW)
    page.get_by_label("New password again").fill(_NEW)
    follow(page.get_by_role("button", name="Change password"))
    expect(page.get_by_role("status").first).to_contain_text("Your password is changed")


def test_two_people_on_one_job(people, seat):
    address, _ = people
    ada, bo = seat(address), seat(address)
    for page, name in ((bo, "Bo Quill"), (ada, "Ada Lind")):
        sign_in(page, name)
        follow(page.locator(".job-row", has_text="Quay flyer"))
        expect(page.locator("#canvas")).to_be_visible()
    expect(ada.locator(".visitor")).to_have_text("BQ Bo Quill is here, too")
    for page in (ada, bo):
        page.mouse.click(*middle(page.locator(".item.picture .frame").first))
        expect(page.locator(".card-title h2")).to_have_text("fog-signal.jpg")
    density = ".figures [name=density]"
    with answer_shown(bo, "/figures"):
        bo.locator(density).fill("150")
        bo.locator(density).press("Enter")
    expect(bo.locator(".history")).to_contain_text("by Bo Quill")
    # The other window still shows the picture as it was.
    ada.locator(density).fill("200")
    ada.locator(density).press("Enter")
    notice = ada.locator("#notice")
    expect(notice).to_contain_text("Bo Quill came first")
    notice.get_by_role("button", name="Reload to see their change").click()
    expect(ada.locator(density)).to_have_value("150")
    ada.goto("/activity")
    expect(ada.locator("main")).to_contain_text("set figures")
    expect(ada.locator("tbody tr").first).to_contain_text("Bo Quill")


def test_a_reviewer_reads_comments_and_accepts_where_it_is_allowed(people, seat):
    address, studio = people
    cleo = seat(address)
    sign_in(cleo, "Cleo Marsh")
    expect(cleo.locator(".job-row")).to_be_visible()
    expect(cleo.get_by_role("link", name="New job")).to_be_hidden()
    follow(cleo.locator(".job-row", has_text="Quay flyer"))
    expect(cleo.locator("#canvas")).to_be_visible()
    expect(cleo.get_by_role("button", name="Add", exact=True)).to_be_hidden()
    follow(cleo.get_by_role("link", name="comments"))
    cleo.get_by_label("Comment").fill("The signal is too coarse.")
    follow(cleo.get_by_role("button", name="Add comment"))
    expect(cleo.locator("article")).to_contain_text("The signal is too coarse.")
    follow(cleo.get_by_role("link", name="Back"))
    expect(cleo.get_by_text("Accept as is")).to_have_count(0)
    with studio.session() as session:
        job_with(session, 1).reviewers_accept = True
    cleo.reload()
    cleo.get_by_text("Give a reason").click()
    expect(cleo.locator("details.accept")).to_contain_text("as Cleo Marsh")
    cleo.get_by_label("Reason").fill("A sketch for the wall")
    cleo.get_by_role("button", name="Accept", exact=True).click()
    expect(cleo.locator("main")).to_contain_text("A sketch for the wall")
    expect(cleo.locator("main")).to_contain_text("Cleo Marsh")


def test_a_job_of_a_group_is_there_for_its_people(people, seat):
    address, studio = people
    ada, bo = seat(address), seat(address)
    sign_in(ada, "Ada Lind")
    ada.goto("/people")
    ada.get_by_label("New group").fill("Press")
    follow(ada.get_by_role("button", name="Make group"))
    ada.goto("/jobs/1/settings")
    ada.get_by_label("Who sees it").select_option("Press")
    follow(ada.get_by_role("button", name="Save settings"))
    expect(ada.locator(".group-name")).to_have_text("Press")
    sign_in(bo, "Bo Quill")
    expect(bo.locator(".job-row")).to_have_count(0)
    bo.goto("/jobs/1/pages")
    expect(bo.get_by_role("heading")).to_have_text("This job does not exist.")
    with studio.session() as session:
        set_groups(session, person_named(session, "Bo Quill"), [1])
    bo.goto("/jobs")
    expect(bo.locator(".job-row")).to_contain_text("Quay flyer")


def test_signing_in_and_the_account_have_no_serious_fault_of_accessibility(people, browser):
    address, _ = people
    # The page's own policy forbids foreign scripts, so it is lifted for the checker alone.
    context = browser.new_context(base_url=address, bypass_csp=True)
    page = context.new_page()
    page.goto("/sign-in")
    assert serious_faults(page) == []
    sign_in(page, "Ada Lind")
    for path in ("/account", "/people", "/jobs/1/pages"):
        page.goto(path)
        page.wait_for_load_state("networkidle")
        assert serious_faults(page) == [], path
    context.close()
