"""Comments on jobs and documents."""

import pytest

from harnet.studio.people.roles import Role
from tests.support.people import let_in, people_of


def test_one_is_made_read_and_settled(open_client, new_job):
    address = f"/comments/job/{new_job()}"
    assert "No comments yet" in open_client.get(address).text
    form = {"text": "Is there a <better> scan?", "name": "I. Varga"}
    assert open_client.post(address, data=form).status_code == 302
    page = open_client.get(address).text
    assert "I. Varga" in page and "Is there a &lt;better&gt; scan?" in page
    assert (
        "1 comment<" in open_client.get(address.replace("/comments/job", "/jobs") + "/pages").text
    )
    open_client.post(f"{address}/1/settle")
    assert "settled by I. Varga" in " ".join(open_client.get(address).text.split())
    open_client.post(f"{address}/1/settle")
    assert "settled" not in open_client.get(address).text


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"text": " ", "name": "I. Varga"}, "Write the comment first"),
        ({"text": "x" * 4001, "name": "I. Varga"}, "at most 4000"),
        ({"text": "Soft.", "name": " "}, "Give your name"),
    ],
)
def test_what_is_none_is_refused(open_client, new_job, form, said):
    answer = open_client.post(f"/comments/job/{new_job()}", data=form)
    assert answer.status_code == 422 and said in answer.text


def test_a_comment_of_another_job_is_not_settled_here(open_client, new_job):
    first, second = new_job(), new_job("Another")
    open_client.post(f"/comments/job/{first}", data={"text": "Soft.", "name": "I. Varga"})
    assert open_client.post(f"/comments/job/{second}/1/settle").status_code == 404
    assert open_client.get("/comments/nothing/1").status_code == 404


def test_a_reviewer_comments_by_their_own_name(open_client, studio, new_job):
    names = people_of(studio)
    address = f"/comments/job/{new_job()}"
    let_in(studio, open_client, names[Role.REVIEWER])
    form = {"text": "Soft.", "name": "Somebody Else"}
    assert open_client.post(address, data=form).status_code == 302
    page = open_client.get(address).text
    assert "<b>Cleo Marsh</b>" in page and "Somebody Else" not in page
