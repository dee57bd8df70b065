"""The people of the demo in which everybody signs in."""

from harnet.demo.people import PASSWORD, PEOPLE, add_people
from harnet.studio.jobs.jobs import job_with
from harnet.studio.people.people import all_people
from harnet.studio.people.signing_in import sign_in
from harnet.studio.preflight.comments import comments_on


def test_they_are_made_once_and_can_sign_in(studio, new_job):
    screens, handbook = new_job("Ticket-hall screens"), new_job("Tarnholm Light: visitor handbook")
    add_people(studio)
    add_people(studio)
    with studio.session() as session:
        assert {one.name: one.role for one in all_people(session)} == {
            name: role.value for name, role in PEOPLE.items()
        }
        for name in PEOPLE:
            assert not sign_in(session, name, PASSWORD)[0].person.must_change_password
        assert job_with(session, screens).group_id is not None
        assert len(comments_on(session, job_with(session, handbook))) == 2
