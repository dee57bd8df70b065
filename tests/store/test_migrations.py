"""A studio from before: its rows are brought over, nothing of them is lost."""

import json
from contextlib import contextmanager
from random import Random

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import select, text

from harnet.core.copies.recipe import plain_copy, recipe_as_values, recipe_from_values
from harnet.core.documents.images import kept_for_lines, row_of
from harnet.core.measure.verdict import Verdict
from harnet.core.pictures.picture import facts_from_values
from harnet.core.targets.shipped import target_named
from harnet.core.targets.target import Target
from harnet.core.targets.values import target_as_values, target_from_values
from harnet.standins.studio import open_studio
from harnet.store.database import _MIGRATIONS, engine_for, migrate
from harnet.store.tables.copies import PrintCopy
from harnet.store.tables.documents import DocumentImage
from harnet.studio.common.settings import Settings
from harnet.studio.jobs.jobs import job_with, target_of
from harnet.studio.judging.judging import catch_up
from harnet.studio.layout.placed import target_for
from harnet.studio.preflight.checking import counts_of, findings_in
from tests.support.databases import new_database
from tests.support.images import picture_by

_FACTS = (
    '{"kind": "raster", "format": "jpeg", "px_w": 300, "px_h": 200, "density_x": null,'
    ' "density_y": null, "colour": "rgb", "bits": 8, "channels": 3, "alpha": false, "lossy": true,'
    ' "icc": null, "frames": 1, "size_bytes": 9}'
)


def as_it_was(url, revision):
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["url"] = url
    command.upgrade(config, revision)


@contextmanager
def brought_over(folder, revision, fill):
    """The studio on a database of its own that was filled as it was at a revision."""
    with new_database("older") as url:
        as_it_was(url, revision)
        engine = engine_for(url)
        with engine.begin() as link:
            fill(link)
        engine.dispose()
        migrate(url)
        studio = open_studio(Settings(url, folder / "data"))
        yield studio
        studio.engine.dispose()


def test_targets_become_values_and_findings_are_found(tmp_path):
    """From before targets had figures of their own."""

    def fill(link):
        link.execute(
            text(
                "insert into shelf (id, name, folder, is_watched, is_being_read, new_count,"
                f" troubles) values (1, 'Old', '{tmp_path}', false, false, 0, '[]')"
            )
        )
        link.execute(
            text(
                "insert into picture (id, shelf_id, file_name, sha256, size_bytes, modified_ns,"
                " facts, is_previewed, looks_drawn, licence, credit, origin, added_at) values"
                " (1, 1, 'gull.jpg', :sha, 9, 0, cast(:facts as jsonb), true, false, '', '', '',"
                " now())"
            ),
            {"sha": "a" * 64, "facts": _FACTS},
        )
        for number, key, ppi, own_key in (
            (1, "office", 220, "'slides'"),
            (2, "own", 44, "null"),
        ):
            link.execute(
                text(
                    "insert into job (id, title, unit, width_pt, height_pt, bleed_pt, margin_pt,"
                    " is_facing, target_key, target_ppi, is_archived, created_at, edited_at)"
                    f" values ({number}, 'Old {number}', 'mm', 400, 600, 0, 0, false, '{key}',"
                    f" {ppi}, false, now(), now())"
                )
            )
            link.execute(
                text(
                    "insert into page (id, job_id, position, width_pt, height_pt, target_key,"
                    f" target_ppi, version) values ({number}, {number}, 0, 400, 600, null, null, 1)"
                )
            )
            link.execute(
                text(
                    "insert into item (id, page_id, position, kind, x_pt, y_pt, width_pt,"
                    " height_pt, rotation_deg, picture_id, scale_x, scale_y, offset_x, offset_y,"
                    " flip_h, flip_v, shape, radius_pt, holding, target_key, target_ppi, style,"
                    f" version) values ({number}, {number}, 1, 'picture', 10, 10, 300, 200, 0, 1,"
                    " 1, 1, 0, 0, false, false, 'rectangle', 0, 'linked',"
                    f" {own_key}, 96, '{{}}', 1)"
                )
            )

    with brought_over(tmp_path, "0004", fill) as desk, desk.session() as session:
        office, own = job_with(session, 1), job_with(session, 2)
        assert (target_of(office).key, target_of(office).density_ppi) == ("office", 220)
        assert target_from_values(own.target) == Target(
            key="own",
            name="Custom figure",
            density_ppi=44,
            bilevel_ppi=44,
            floor_ppi=44 / 3,
            ceiling_ppi=132,
        )
        for job in (office, own):
            catch_up(session, job)
        # 72 ppi on a placement with its own target of 96, and against 44.
        assert counts_of(office).verdicts[Verdict.THIN] == 1
        assert counts_of(own).verdicts[Verdict.FULL] == 1
        item = office.pages[0].items[0]
        assert target_for(item, target_of(office)).density_ppi == 96
        rules = {one.row.rule_id for one in findings_in(session, office)}
        assert {"file-missing", "density-below-tolerance", "rights-unknown"} == rules
        # Previews are made anew, and with them what the pixels tell.
        assert not item.picture.is_previewed


def test_values_kept_under_older_names_are_read_under_the_new_ones(tmp_path):
    old = plain_copy(facts_from_values(json.loads(_FACTS)), 300)
    recipe = recipe_as_values(old)
    recipe["packing"], recipe["may_invent"] = recipe.pop("compression"), True
    del recipe["may_interpolate"]

    def fill(link):
        link.execute(
            text(
                "insert into shelf (id, name, folder, is_watched, is_being_read, new_count,"
                f" troubles) values (1, 'Old', '{tmp_path}', false, false, 0, '[]')"
            )
        )
        link.execute(
            text(
                "insert into picture (id, shelf_id, file_name, sha256, size_bytes,"
                " modified_ns, facts, is_previewed, looks_drawn, licence, credit, origin,"
                " added_at, likeness, file_state) values (1, 1, 'gull.jpg', :sha, 9, 0,"
                " cast(:facts as jsonb), true, false, '', '', '', now(), '', 'in place')"
            ),
            {"sha": "a" * 64, "facts": _FACTS},
        )
        for note in ("Placed on page 1 of Old.", "The frame was changed meanwhile."):
            link.execute(
                text(
                    "insert into print_copy (picture_id, recipe, file_name, note, state,"
                    " done_steps, all_steps, asked_at) values (1, cast(:recipe as jsonb),"
                    " 'a.tif', :note, 'done', 1, 1, now())"
                ),
                {"recipe": json.dumps(recipe), "note": note},
            )

    with brought_over(tmp_path, "0016", fill) as studio, studio.session() as session:
        copies = session.scalars(select(PrintCopy).order_by(PrintCopy.id)).all()
        assert [copy.is_placed for copy in copies] == [True, False]
        found = recipe_from_values(copies[0].recipe)
        assert found.may_interpolate and found.compression is old.compression


def test_images_of_documents_that_are_there_are_judged_as_new_ones(tmp_path):
    chance = Random(28)
    pictures = [picture_by(chance, place) for place in range(1, 201)]

    def fill(link):
        link.execute(
            text(
                "insert into document (id, file_name, sha256, size_bytes, target, pages, whole,"
                " state, steps_done, steps_total, requested_at, made_by) values (1, 'a.pptx',"
                " 'a', 9, cast(:target as jsonb), '[]', '{}', 'done', 1, 1, now(), '')"
            ),
            {"target": json.dumps(target_as_values(target_named("coated")))},
        )
        for picture in pictures:
            row = row_of(picture)
            row["about"] = json.dumps(row["about"])
            names = ", ".join(row)
            values = ", ".join(f":{name}" for name in row)
            link.execute(
                text(f"insert into document_image (document_id, {names}) values (1, {values})"),
                row,
            )

    with brought_over(tmp_path, "0027", fill) as studio, studio.session() as session:
        rows = session.scalars(select(DocumentImage).order_by(DocumentImage.place)).all()
        for row, picture in zip(rows, pictures, strict=True):
            expected = kept_for_lines(picture)
            assert (row.name, row.density_ppi) == (expected["name"], expected["density_ppi"])
            assert row.evenness == pytest.approx(expected["evenness"], abs=1e-12)
            assert row.area_pt == pytest.approx(expected["area_pt"], rel=1e-12, abs=1e-9)
