"""The log: a line for each request, a line for each task."""

import logging
import re

import pytest

from harnet.studio.common.logs import logged_task


def test_a_request_has_a_line_with_id_person_area_and_time(open_client, caplog):
    with caplog.at_level(logging.INFO, "harnet"):
        answer = open_client.get("/glossary")
    number = answer.headers["X-Request-ID"]
    line = rf"request id={number} person=- area=glossary GET /glossary 200 in \d+ ms"
    assert any(re.fullmatch(line, one.getMessage()) for one in caplog.records)


def test_a_task_has_a_line_whether_it_is_done_or_failed(caplog):
    with caplog.at_level(logging.INFO, "harnet"):
        with logged_task("7", "Ada Lind", "outputs", "make_output", "row_id=3"):
            pass
        with pytest.raises(ZeroDivisionError), logged_task("8", "", "outputs", "make_output", ""):
            raise ZeroDivisionError
    first, second = (one.getMessage() for one in caplog.records)
    line = r'task id=7 person="Ada Lind" area=outputs make_output row_id=3 done in \d+ ms'
    assert re.fullmatch(line, first)
    assert "person=- " in second and "failed" in second


def test_the_glossary_explains_its_words(open_client):
    page = open_client.get("/glossary").text
    assert "<dt>Headroom</dt>" in page and "in percent" in page
