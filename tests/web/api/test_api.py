"""The HTTP API as a program uses it: tokens, pictures, jobs, placements, checks, outputs."""

import io
import os
import subprocess

import pypdf
import pytest

from harnet.core.measure.density import reach_pt
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.handoff.opening import open_pack
from harnet.studio.output.outputs import output_with
from harnet.studio.output.task import make_output
from harnet.studio.people.tokens import make_token, revoke_token, shown_tokens
from tests.support.api import API, Program, jpeg, leaflet
from tests.support.command import HARNET
from tests.support.packages import deck, pic, xfrm
from tests.support.schemas import report_validator


@pytest.fixture
def token(studio):
    with studio.session() as session:
        return make_token(session, "nightly check")[1]


@pytest.fixture
def program(client, token):
    return Program(client, token)


class TestTokens:
    @pytest.mark.parametrize(
        "headers", [{}, {"Authorization": "Bearer wrong"}, {"Authorization": "x"}]
    )
    def test_without_a_good_one_there_is_nothing(self, client, headers):
        answer = client.get(f"{API}/jobs", headers=headers)
        assert answer.status_code == 401 and answer.mimetype == "application/problem+json"
        assert "Authorization: Bearer" in answer.json["detail"]

    def test_withdrawn_it_opens_nothing_any_more(self, studio, program):
        program.asks("GET", "/jobs")
        with studio.session() as session:
            [row] = shown_tokens(session)
            assert row.last_used_at is not None
            revoke_token(session, row.id)
        program.asks("GET", "/jobs", 401)

    def test_the_database_holds_no_token(self, studio, token):
        with studio.session() as session:
            [row] = shown_tokens(session)
            assert token not in (row.sha256, row.label) and len(row.sha256) == 64

    def test_the_command_makes_one(self, settings, client):
        where = {"HARNET_DATABASE": settings.database_url, "HARNET_DATA": str(settings.data_folder)}
        run = subprocess.run(
            [HARNET, "token", "by hand"],
            env=os.environ | where,
            capture_output=True,
            text=True,
            check=True,
        )
        Program(client, run.stdout.strip()).asks("GET", "/targets")

    def test_a_session_of_the_pages_is_no_token(self, open_client):
        open_client.get("/jobs")
        assert open_client.post(f"{API}/jobs", json={}).status_code == 401


class TestProblems:
    def test_what_is_not_there(self, program):
        told = program.asks("GET", "/jobs/9999", 404)
        assert told["title"] == "Not Found" and told["instance"] == "/api/v1/jobs/9999"
        program.asks("GET", "/nowhere", 404)
        program.asks("GET", "/jobs/99999999999999999999", 404)

    @pytest.mark.parametrize(
        "body, place",
        [
            ({"title": "Flyer", "width": 210}, "height"),
            ({"title": " ", "width": 210, "height": 297}, "title"),
            ({"title": "Flyer", "width": "210", "height": 297}, "width"),
            ({"title": "Flyer", "width": 210, "height": 297, "colour": "red"}, "colour"),
            ({"title": "Flyer", "width": 210, "height": 297, "pages": 0}, "pages"),
        ],
    )
    def test_a_body_that_does_not_keep_to_its_form_is_told_where(self, program, body, place):
        told = program.asks("POST", "/jobs", 422, json=body)
        assert told["detail"].startswith(f"{place}: ")
        assert place in told["errors"]["json"]

    def test_no_json_at_all(self, program):
        for body in ("{no", "[" * 100_000):
            program.asks("POST", "/jobs", 400, data=body, content_type="application/json")

    def test_a_target_that_does_not_exist(self, program):
        body = {"title": "Flyer", "width": 210, "height": 297, "target": {"key": "vellum"}}
        assert "target" in program.asks("POST", "/jobs", 422, json=body)["detail"]
        program.asks("GET", "/targets/vellum", 404)


class TestPictures:
    def test_the_same_bytes_are_one_picture(self, program):
        first = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
        again = program.hands_in("/pictures", "gull.jpg", jpeg(), 200)
        assert first == again
        assert (first["facts"]["px_w"], first["facts"]["density_x"]) == (600, 300)
        other = program.hands_in("/pictures", "gull.jpg", jpeg(2), 201)
        assert other["name"] == "gull 2.jpg"
        listed = program.asks("GET", "/pictures?find=gull&limit=1")
        assert (listed["total"], len(listed["items"])) == (2, 1)
        assert program.asks("GET", f"/pictures/{first['id']}/file").data == jpeg()
        reach = program.asks("GET", f"/pictures/{first['id']}/reach?ppi=150")
        assert (reach["width_pt"], reach["height_pt"]) == (reach_pt(600, 150), reach_pt(400, 150))

    def test_what_is_no_picture_is_refused_in_a_sentence(self, program):
        told = program.hands_in("/pictures", "timetable.jpg", b"every hour", 422)
        assert told["detail"].startswith("timetable.jpg: ")
        assert program.asks("GET", "/pictures")["total"] == 0

    def test_a_missing_file_and_unknown_questions(self, program):
        program.asks("POST", "/pictures", 422, data={"name": "gull"})
        program.asks("GET", "/pictures?limit=0", 422)
        program.asks("GET", "/pictures?colour=red", 422)


@pytest.fixture
def flyer(program):
    body = {"title": "Quay flyer", "width": 210, "height": 297, "target": {"ppi": 250}}
    return program.asks("POST", "/jobs", 201, json=body)


class TestJobs:
    def test_made_judged_by_another_target_and_deleted(self, program, flyer):
        assert flyer["width_pt"] == pytest.approx(210 * 72 / 25.4)
        assert (flyer["target"]["density_ppi"], flyer["gate"]) == (250, "open")
        address = f"/jobs/{flyer['id']}"
        assert program.asks("GET", address) == flyer
        judged = program.asks("PUT", f"{address}/target", json={"key": "newsprint"})
        assert judged["target"]["key"] == "newsprint"
        assert [one["id"] for one in program.asks("GET", "/jobs")["items"]] == [flyer["id"]]
        program.asks("DELETE", address, 204)
        assert program.asks("GET", "/jobs")["total"] == 0

    def test_placed_scaled_and_taken_off(self, program, flyer):
        picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
        address = f"/jobs/{flyer['id']}/placements"
        frame = {"x_pt": 10.0, "y_pt": 20.0, "width_pt": 288.0, "height_pt": 192.0}
        placed = program.asks("POST", address, 201, json={"picture": picture["id"], "frame": frame})
        assert (placed["ppi_x"], placed["verdict"]) == (pytest.approx(150), "thin")
        assert placed["frame"] == frame
        one = f"{address}/{placed['id']}"
        grown = program.asks("PATCH", one, json={"scale_to": "reach", "version": placed["version"]})
        assert (grown["ppi_judged"], grown["verdict"]) == (pytest.approx(250), "full")
        # Somebody who still has the old version changes nothing.
        program.asks("PATCH", one, 409, json={"scale_to": "native", "version": placed["version"]})
        moved = program.asks("PATCH", one, json={"frame": frame | {"x_pt": 50.0}})
        assert moved["frame"]["x_pt"] == 50
        assert program.asks("GET", address)["items"] == [moved]
        job = program.asks("GET", f"/jobs/{flyer['id']}")
        assert job["verdicts"]["full"] == 1
        program.asks("DELETE", one, 204)
        program.asks("GET", one, 404)

    def test_findings_and_the_report_in_its_published_form(self, program, flyer):
        picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
        frame = {"x_pt": 10, "y_pt": 20, "width_pt": 560, "height_pt": 373.0}
        body = {"picture": picture["id"], "frame": frame}
        program.asks("POST", f"/jobs/{flyer['id']}/placements", 201, json=body)
        found = program.asks("GET", f"/jobs/{flyer['id']}/findings")
        assert found["gate"] == "held"
        assert found["items"][0]["rule"] == "density-below-floor"
        report = program.asks("GET", f"/jobs/{flyer['id']}/report")
        report_validator("job-report.schema.json").validate(report)
        # A held gate is not passed without a reason and a name.
        told = program.asks("POST", f"/jobs/{flyer['id']}/outputs", 422, json={"kind": "pdf"})
        assert told["detail"].startswith("The gate is held")


class TestChecks:
    def test_one_check_for_one_pdf_and_target(self, studio, program):
        first = program.hands_in("/checks", "leaflet.pdf", leaflet(), 202, target="coated")
        assert (first["state"], first["pages"]) == ("waiting", 0)
        again = program.hands_in("/checks", "leaflet.pdf", leaflet(), 200, target="coated")
        assert again["id"] == first["id"]
        other = program.hands_in("/checks", "leaflet.pdf", leaflet(), 202, ppi="120")
        assert other["id"] != first["id"]
        read_pdf(studio, first["id"])
        done = program.asks("GET", f"/checks/{first['id']}")
        assert (done["state"], done["pages"], done["verdicts"]["thin"]) == ("done", 1, 1)
        report = program.asks("GET", f"/checks/{first['id']}/report")
        report_validator("document-report.schema.json").validate(report)
        noted = program.asks("GET", f"/checks/{first['id']}/noted.pdf")
        assert len(pypdf.PdfReader(io.BytesIO(noted.data)).pages[0]["/Annots"]) == 1
        assert program.asks("GET", "/checks")["total"] == 2
        program.asks("DELETE", f"/checks/{first['id']}", 204)
        assert program.asks("GET", f"/checks/{other['id']}")["sha256"] == first["sha256"]

    def test_a_slide_deck(self, studio, program, tmp_path):
        shapes = pic(xfrm(0, 0, 1, 1), name="Storm")
        data = deck(tmp_path / "talk.pptx", [shapes, ""]).read_bytes()
        asked = program.hands_in("/checks", "talk.pptx", data, 202, ppi="300")
        assert asked["format"] is None
        read_pdf(studio, asked["id"])
        done = program.asks("GET", f"/checks/{asked['id']}")
        assert (done["format"], done["pages"], done["state"]) == ("pptx", 2, "done")
        report = program.asks("GET", f"/checks/{asked['id']}/report")
        report_validator("document-report.schema.json").validate(report)
        assert report["images"][0]["place"] == "slide, “Storm”"
        # What only a PDF can have is refused with a sentence.
        told = program.asks("GET", f"/checks/{asked['id']}/noted.pdf", 422)
        assert told["detail"].startswith("Notes are added to PDFs alone")
        body = {"density_ppi": 100}
        told = program.asks("POST", f"/checks/{asked['id']}/page-images", 422, json=body)
        assert told["detail"].startswith("Pages are written as images from PDFs alone")

    def test_no_pdf(self, program):
        told = program.hands_in("/checks", "timetable.pdf", b"every hour", 422)
        assert told["detail"].startswith("timetable.pdf: its content is not a document")
        assert program.asks("GET", "/checks")["total"] == 0


def test_an_output_is_asked_for_made_and_fetched(studio, program, flyer):
    picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
    body = {"picture": picture["id"]}
    program.asks("POST", f"/jobs/{flyer['id']}/placements", 201, json=body)
    wanted = {"kind": "pdf", "pdf": {"mode": "keep"}}
    asked = program.asks("POST", f"/jobs/{flyer['id']}/outputs", 202, json=wanted)
    assert asked["state"] == "waiting"
    program.asks("GET", f"/outputs/{asked['id']}/file", 404)
    make_output(studio, asked["id"])
    done = program.asks("GET", f"/outputs/{asked['id']}")
    assert (done["state"], done["is_as_promised"]) == ("done", True)
    file = program.asks("GET", f"/outputs/{asked['id']}/file")
    assert file.mimetype == "application/pdf" and len(file.data) == done["size_bytes"]
    receipt = program.asks("GET", f"/outputs/{asked['id']}/receipt")
    assert receipt["is_kept"] and receipt["rows"][0]["is_kept"]
    images = {"kind": "page image", "images": {"format": "jpeg", "density_ppi": 150, "pages": "1"}}
    other = program.asks("POST", f"/jobs/{flyer['id']}/outputs", 202, json=images)
    assert program.asks("POST", f"/outputs/{other['id']}/cancel")["state"] == "cancelled"
    assert len(program.asks("GET", f"/jobs/{flyer['id']}/outputs")["items"]) == 2


class TestSettingsOfOutputs:
    @pytest.fixture
    def laid(self, program, flyer):
        picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
        body = {"picture": picture["id"]}
        program.asks("POST", f"/jobs/{flyer['id']}/placements", 201, json=body)
        return f"/jobs/{flyer['id']}"

    def asked(self, program, studio, laid, body):
        output = program.asks("POST", f"{laid}/outputs", 202, json=body)
        with studio.session() as session:
            return output_with(session, output["id"]).settings

    def test_every_setting_is_taken_and_the_rest_stays_as_it_was(self, studio, program, laid):
        pdf = {"mode": "trim", "to_ppi": 200, "threshold": 1.2, "lossless": True}
        pdf |= {"standard": "pdf-x-4", "crop_marks": True, "pages": "1", "language": "de-AT"}
        kept = self.asked(program, studio, laid, {"kind": "pdf", "pdf": pdf})["pdf"]
        assert pdf.pop("lossless") and kept["quality"] is None
        assert kept.items() >= pdf.items()
        again = self.asked(program, studio, laid, {"kind": "pdf", "pdf": {"drops_cropped": True}})
        assert again["pdf"] == kept | {"drops_cropped": True}
        assert self.asked(program, studio, laid, {"kind": "pdf"})["pdf"] == again["pdf"]

    @pytest.mark.parametrize(
        "images, size_by, figures",
        [
            ({"width_px": 800}, "width", {"edge_px": 800}),
            ({"height_px": 900}, "height", {"edge_px": 900}),
            (
                {"format": "jpeg", "limit_bytes": 90_000, "density_ppi": 120},
                "bytes",
                {"limit_bytes": 90_000, "density_ppi": 120},
            ),
            ({"density_ppi": 96, "with_bleed": True}, "density", {"with_bleed": True}),
        ],
    )
    def test_one_figure_decides_about_the_pixels(
        self, studio, program, laid, images, size_by, figures
    ):
        kept = self.asked(program, studio, laid, {"kind": "page image", "images": images})["images"]
        assert kept["size_by"] == size_by and kept.items() >= figures.items()

    def test_a_limit_of_bytes_holds(self, studio, program, laid):
        images = {"format": "jpeg", "limit_bytes": 40_000, "density_ppi": 150}
        body = {"kind": "page image", "images": images}
        output = program.asks("POST", f"{laid}/outputs", 202, json=body)
        make_output(studio, output["id"])
        assert program.asks("GET", f"/outputs/{output['id']}")["size_bytes"] <= 40_000

    @pytest.mark.parametrize(
        "body, says",
        [
            ({"kind": "page image", "pdf": {}}, "pdf does not apply to an output of kind"),
            ({"kind": "pdf", "images": {"format": "png"}}, "images does not apply"),
            ({"kind": "pdf", "pdf": {"dpi": 300}}, "dpi"),
            ({"kind": "page image", "images": {"width_px": 9, "height_px": 9}}, "each decide"),
            ({"kind": "page image", "images": {"limit_bytes": 5000, "format": "png"}}, "Only JPEG"),
        ],
    )
    def test_what_does_not_fit_is_refused_by_name(self, program, laid, body, says):
        told = program.asks("POST", f"{laid}/outputs", 422, json=body)
        assert says in told["detail"]

    def test_a_prediction_comes_close_and_changes_nothing(self, studio, program, laid):
        settings = {"mode": "trim", "to_ppi": 150}
        for _ in range(30):
            found = program.asks("POST", f"{laid}/prediction", json=settings)
            if not found["waiting"]:
                break
        assert found["measured"] == 1 and found["unreadable"] == []
        body = {"kind": "pdf", "pdf": settings}
        output = program.asks("POST", f"{laid}/outputs", 202, json=body)
        make_output(studio, output["id"])
        made = program.asks("GET", f"/outputs/{output['id']}")["size_bytes"]
        assert found["size_bytes"] == pytest.approx(made, rel=0.05)

    def test_a_pack_goes_out_and_comes_back(self, studio, program, laid):
        output = program.asks("POST", f"{laid}/outputs", 202, json={"kind": "pack"})
        make_output(studio, output["id"])
        data = program.asks("GET", f"/outputs/{output['id']}/file").data
        pack = program.hands_in("/packs", "flyer.zip", data, 202)
        assert (pack["state"], pack["job"]) == ("waiting", None)
        open_pack(studio, pack["id"])
        opened = program.asks("GET", f"/packs/{pack['id']}")
        assert opened["state"] == "done"
        found = program.asks("GET", f"/jobs/{opened['job']}/placements")["items"]
        assert [one["name"] for one in found] == ["gull.jpg"]
        other = program.hands_in("/packs", "flyer.zip", data, 202)
        assert program.asks("POST", f"/packs/{other['id']}/cancel")["state"] == "cancelled"
        told = program.hands_in("/packs", "no.zip", b"PK", 422)
        assert "ZIP is incomplete" in told["detail"]


def test_placements_are_scaled_to_a_figure_and_swapped(program, flyer):
    ids = [
        program.hands_in("/pictures", name, jpeg(seed), 201)["id"]
        for seed, name in enumerate(("gull.jpg", "other.jpg"), 1)
    ]
    address = f"/jobs/{flyer['id']}/placements"
    placed = program.asks("POST", address, 201, json={"picture": ids[0]})
    scaled = program.asks("PATCH", f"{address}/{placed['id']}", json={"scale_to_ppi": 220})
    assert scaled["ppi_judged"] == pytest.approx(220)
    body = {"picture": ids[1], "version": scaled["version"]}
    swapped = program.asks("PUT", f"{address}/{placed['id']}/picture", json=body)
    assert (swapped["name"], swapped["frame"]) == ("other.jpg", scaled["frame"])
    program.asks("PUT", f"{address}/{placed['id']}/picture", 409, json=body)


def test_a_finding_is_accepted_and_taken_back(program, flyer):
    picture = program.hands_in("/pictures", "gull.jpg", jpeg(), 201)
    job = f"/jobs/{flyer['id']}"
    program.asks("POST", f"{job}/placements", 201, json={"picture": picture["id"]})
    [first, *rest] = program.asks("GET", f"{job}/findings")["items"]
    address = f"{job}/findings/{first['item']}/{first['rule']}/acceptance"
    body = {"reason": "It is a proof.", "name": "I. Varga"}
    found = program.asks("PUT", address, json=body)
    assert found["items"] == rest
    assert found["accepted"] == [first | {"reason": body["reason"], "accepted_by": body["name"]}]
    program.asks("PUT", address, 422, json={"reason": " ", "name": "I. Varga"})
    assert program.asks("DELETE", address)["items"] == [first, *rest]
    program.asks("DELETE", address, 404)
