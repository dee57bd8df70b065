"""What a studio is busy with, and what failed of late."""

from datetime import timedelta

from harnet.core.targets.shipped import target_named
from harnet.core.targets.values import target_as_values
from harnet.store.base import now_utc
from harnet.store.tables.documents import Document, DocumentWork
from harnet.studio.running.figures import failures_of_week, work_figures

COATED = target_as_values(target_named("coated"))


def document(state, age, failure=None, made_by=""):
    when = now_utc() - age
    return Document(
        file_name="a.pdf",
        sha256="0" * 64,
        size_bytes=1,
        target=COATED,
        state=state,
        failure=failure,
        made_by=made_by,
        requested_at=when,
        finished_at=when if state in ("failed", "done") else None,
    )


def test_work_is_counted_by_kind_and_the_oldest_that_waits_is_told(studio):
    hour = timedelta(hours=1)
    with studio.session() as session:
        session.add_all(
            [
                document("waiting", 2 * hour),
                document("waiting", 5 * hour),
                document("working", 9 * hour),
                document("done", hour),
                document("failed", 24 * hour, "It is torn."),
                document("failed", 24 * 8 * hour, "It was torn."),
                document("cancelled", hour),
            ]
        )
        session.flush()
        figures = {one.kind: one for one in work_figures(session)}
    assert list(figures) == sorted(figures)
    of_documents = figures["document"]
    assert (of_documents.waiting, of_documents.working, of_documents.failed) == (2, 1, 1)
    assert abs(of_documents.oldest_seconds - 5 * 3600) < 60
    others = [one for kind, one in figures.items() if kind != "document"]
    assert len(others) > 5
    for one in others:
        assert (one.waiting, one.working, one.oldest_seconds, one.failed) == (0, 0, 0, 0)


def test_failures_of_all_kinds_stand_the_latest_first(studio):
    day = timedelta(days=1)
    with studio.session() as session:
        row = document("failed", 3 * day, "The third.", "Ada Lind")
        session.add_all([row, document("failed", day, "The first."), document("failed", 8 * day)])
        session.flush()
        when = now_utc() - 2 * day
        session.add(
            DocumentWork(
                document_id=row.id,
                kind="improve",
                state="failed",
                failure="The second.",
                requested_at=when,
                finished_at=when,
            )
        )
        session.flush()
        failures = failures_of_week(session)
    told = [(one.sentence, one.who) for one in failures]
    assert told == [("The first.", ""), ("The second.", ""), ("The third.", "Ada Lind")]
    assert failures[0].when > failures[1].when > failures[2].when
    assert len({one.words for one in failures}) == 2
