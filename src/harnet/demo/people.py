"""The people of the trust, for a demo in which everybody signs in."""

from dataclasses import replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.store.acting import acting
from harnet.store.tables.jobs import Job
from harnet.studio.common.studio import Studio
from harnet.studio.jobs.jobs import job_with
from harnet.studio.people.people import (
    actor_named,
    add_group,
    add_person,
    asks_for_names,
    set_groups,
)
from harnet.studio.people.roles import Role
from harnet.studio.preflight.comments import add_comment

PASSWORD = "tarnholm light 1871"
"""Of everybody, and told when the demo starts."""
PEOPLE = {
    "Maren Vale": Role.OWNER,
    "Jory Pell": Role.DESIGNER,
    "Isla Thorne": Role.DESIGNER,
    "Osric Venn": Role.REVIEWER,
}
_COMMENTS = {
    "Osric Venn": "The engraving on page 6 looks soft to me. Is there a better scan?",
    "Isla Thorne": "The archive sends the plate again on Thursday.",
}


def add_people(studio: Studio) -> None:
    """An owner, designers and a reviewer, a group with a job of its own, and comments."""
    with studio.session() as session:
        if asks_for_names(session):
            return
        people = {}
        for name, role in PEOPLE.items():
            people[name] = add_person(session, name, role, PASSWORD)
            people[name].must_change_password = False
        hall = add_group(session, "Ticket hall")
        set_groups(session, people["Jory Pell"], [hall.id])
        screens, handbook = _job(session, "ticket-hall"), _job(session, "handbook")
        screens.group_id = hall.id
        handbook.reviewers_accept = True
        job_id = handbook.id
    for name, text in _COMMENTS.items():
        with studio.session() as session:
            who = replace(actor_named(session, name), doing="commented", job_id=job_id)
        with acting(who), studio.session() as session:
            add_comment(session, job_with(session, job_id), text, name)


def _job(session: Session, title: str) -> Job:
    """The demo's job with this in its title."""
    return session.scalars(select(Job).where(Job.title.icontains(title))).one()
