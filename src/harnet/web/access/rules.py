"""What each address asks of whoever uses it, and how it is told when it changed something.

The table is complete: an address without a rule is refused, and a test walks them all.
"""

from dataclasses import dataclass
from enum import Enum

from harnet.studio.people.roles import Role


class Need(Enum):
    """What somebody must be to use an address."""

    NOTHING = None
    """Anyone, without signing in."""
    REVIEWER = Role.REVIEWER
    DESIGNER = Role.DESIGNER
    OWNER = Role.OWNER
    MACHINE = "machine"
    """A program on this machine, or an owner: what tells how Harnet is doing."""
    ACCEPT = "accept"
    """A designer, or a reviewer where the job or the document lets reviewers accept."""


@dataclass(frozen=True, slots=True)
class Rule:
    """What an address needs; `doing` tells in the past tense what it changes, empty for nothing."""

    need: Need
    doing: str = ""


def rule_of(endpoint: str) -> Rule | None:
    """The rule of an address by the name of its view; None where there is none."""
    return RULES.get(endpoint)


def _named(need: Need, names: str) -> dict[str, Rule]:
    return {name: Rule(need) for name in names.split()}


def _told(need: Need, words: dict[str, str]) -> dict[str, Rule]:
    return {name: Rule(need, doing) for name, doing in words.items()}


_ANYONE = """
    static anystatic.of_any_version health.live health.ready files.font
    reading.read reading.document_page_png reading.image_png
    signing.show signing.enter
"""

_READ = """
    account.show
    api_checks.check api_checks.checks api_checks.noted api_checks.report
    api_improving.file api_improving.receipt api_improving.work api_improving.works
    api_jobs.findings api_jobs.job api_jobs.jobs api_jobs.report
    api_outputs.file api_outputs.output api_outputs.outputs api_outputs.prediction
    api_outputs.receipt api_packs.pack
    api_pictures.file api_pictures.picture api_pictures.pictures api_pictures.reach
    api_placements.placement api_placements.placements
    api_targets.target api_targets.targets api_texts.text api_texts.texts
    arrange.why calculator.show close_look.pixels close_look.show comments.show
    compare.exact compare.measure compare.show compare.tile credits.credits
    documentimages.pixels documentpicture.alone documentpicture.look documentpicture.pixels
    documentpicture.why documentreport.as_csv documentreport.as_html documentreport.as_json
    documentreport.as_pdf documentreport.noted documentreport.page
    documents.listing documents.page_png documents.rows documents.show
    files.finished files.ladder_rung files.pdf_page files.preview finding.show glass.show
    glossary.show guide.contents guide.page guide.picture
    improve.file improvedreceipt.as_json improvedreceipt.as_pdf improvedreceipt.page
    jobs.home jobs.listing jobs.unit ledger.as_csv ledger.printed ledger.show
    longbatch.show loupe.item loupe.page openapi.spec
    output.listing output.predicted output.receipt output.show
    outputcompare.look outputcompare.show
    pages.finding pages.measure pages.pictures pages.prefer pages.show
    picture.show picture_loupe.show preflight.show presence.here
    report.as_csv report.as_html report.as_json report.as_pdf report.page
    schemas.schema shelf.looking shelf.preview_bytes shelf.tile shelf.wall
    targets.density_fields targets.edit targets.export targets.listing
    thumbnails.thumbnail why.show
"""

_DESIGN = """
    agency.preview agency.search agency.state
    api_improving.pixels api_improving.plan
    bulk.show copies.change copies.listing copies.show copies.spots
    documentimages.made documentimages.show framecopy.frame_progress improve.show
    jobsettings.show ledgerbatch.preview ledgerbatch.progress matches.show
    newjob.new newjob.page_fields newjob.preview opening.show pages.pdf_pages
    presets.export review.links rows.preview rows.show textstyles.show tokens.listing
    shelf.look_again
"""

_OWN = """
    activity.as_csv activity.show people.show running.show
"""

_REVIEWED = {
    "account.choose_password": "changed their own password",
    "account.end": "ended a sign-in of their own",
    "account.end_others": "ended their other sign-ins",
    "account.leave": "signed out",
    "comments.add": "commented",
    "comments.settle": "settled a comment",
}

_ACCEPTED = {
    "api_jobs.accept_finding": "accepted a finding",
    "api_jobs.withdraw_acceptance": "withdrew an acceptance",
    "documentreport.accept_finding": "accepted a finding",
    "documentreport.withdraw_acceptance": "withdrew an acceptance",
    "preflight.accept_finding": "accepted a finding",
    "preflight.withdraw_acceptance": "withdrew an acceptance",
}

_DESIGNED = {
    "agency.cancel": "cancelled a delivery of the agency",
    "agency.fetch": "ordered a picture from the agency",
    "api_checks.delete": "deleted a document",
    "api_checks.upload": "uploaded a document",
    "api_improving.copies": "asked for an improved copy",
    "api_improving.images": "asked for a document’s images",
    "api_improving.open_with_password": "opened a document with its password",
    "api_improving.originals": "searched for originals",
    "api_improving.page_images": "asked for pages as images",
    "api_improving.stop": "cancelled work on a document",
    "api_jobs.delete": "deleted a job",
    "api_jobs.judge_by": "gave a job another target",
    "api_jobs.make": "created a job",
    "api_outputs.ask": "asked for an output",
    "api_outputs.stop": "cancelled an output",
    "api_packs.stop": "cancelled the opening of a pack",
    "api_packs.upload": "uploaded a handoff pack",
    "api_pictures.upload": "uploaded a picture",
    "api_placements.change": "changed a placement",
    "api_placements.place": "placed a picture",
    "api_placements.remove_from_page": "removed a placement",
    "api_placements.swap_picture": "swapped a picture",
    "api_texts.add": "added a text",
    "api_texts.change": "changed a text",
    "api_texts.remove": "removed a text",
    "arrange.align_items": "aligned items",
    "arrange.alike": "made items alike",
    "arrange.duplicate": "duplicated items",
    "arrange.facing": "changed how pages face",
    "arrange.link": "changed a link",
    "arrange.mirror": "mirrored items",
    "arrange.page_size": "changed a page’s size",
    "arrange.paste": "pasted items",
    "arrange.quality": "changed a preview’s quality",
    "arrange.relink_all": "relinked pictures",
    "arrange.shape": "added a shape",
    "arrange.spread": "spread items evenly",
    "arrange.stack": "changed the stacking order",
    "arrange.style": "changed a style",
    "arrange.target": "changed a target",
    "bulk.accept": "accepted findings",
    "bulk.fix": "fixed findings",
    "bulk.rights": "wrote rights",
    "copies.add_profile": "added a colour profile",
    "copies.again": "asked for a print copy again",
    "copies.make": "asked for a print copy",
    "copies.stop": "cancelled a print copy",
    "documentimages.cancel": "cancelled pages as images",
    "documentimages.make": "asked for pages as images",
    "documents.delete": "deleted a document",
    "documents.give_password": "opened a document with its password",
    "documents.set_target": "gave a document another target",
    "documents.upload": "uploaded a document",
    "framecopy.make_for_frame": "asked for a print copy",
    "guides.grid": "changed the grid",
    "guides.put": "placed a guide",
    "guides.remove": "removed a guide",
    "history.redo_next": "redid",
    "history.travel": "went to a step of the history",
    "history.undo_last": "undid",
    "improve.cancel": "cancelled work on a document",
    "improve.copy": "asked for an improved copy",
    "improve.find": "searched for originals",
    "improve.images": "asked for a document’s images",
    "jobs.duplicate": "duplicated a job",
    "jobs.put_job": "moved a job to another list",
    "jobs.target": "gave a job another target",
    "jobs.undo_last": "undid",
    "jobsettings.change": "changed a job’s settings",
    "keeping.make": "made a shelf",
    "keeping.move": "moved a picture to another shelf",
    "keeping.remove": "removed a shelf",
    "keeping.rename": "renamed a shelf",
    "keeping.share": "gave a shelf to others",
    "keeping.take_off": "removed a picture",
    "ledgerbatch.do": "changed placements together",
    "longbatch.cancel": "cancelled a batch",
    "matches.fill": "filled a frame",
    "matches.take": "swapped a picture",
    "newjob.make": "created a job",
    "opening.cancel": "cancelled the opening of a pack",
    "opening.upload": "uploaded a handoff pack",
    "output.make_images": "asked for page images",
    "output.make_pack": "asked for a handoff pack",
    "output.make_pdf": "asked for a PDF",
    "output.once_more": "asked for an output again",
    "output.send_to_house": "sent an output to a print house",
    "output.stop": "cancelled an output",
    "pages.add": "added pages",
    "pages.copy": "copied a page",
    "pages.draw": "drew a frame",
    "pages.figures": "set figures",
    "pages.fit": "fitted pictures",
    "pages.gesture": "moved or sized items",
    "pages.move": "moved pages",
    "pages.paste": "pasted a picture",
    "pages.place": "placed a picture",
    "pages.remove": "removed a page",
    "pages.remove_from_page": "removed items",
    "pages.scale": "scaled items",
    "picture.write_rights": "wrote rights",
    "preflight.again": "ran preflight again",
    "preflight.fix": "fixed a finding",
    "presets.delete": "deleted a preset",
    "presets.keep": "saved a preset",
    "presets.read": "imported presets",
    "presets.use": "used a preset",
    "review.let_accept": "changed whether reviewers accept",
    "review.make": "made a review link",
    "review.revoke": "revoked a review link",
    "rows.make": "made pages from rows",
    "samples.make": "made samples",
    "samples.remove": "removed samples",
    "shelf.clear": "cleared the previews",
    "shelf.upload": "uploaded pictures",
    "textstyles.apply": "applied a text style",
    "textstyles.change": "changed a text style",
    "textstyles.credits": "added credit lines",
    "textstyles.take": "took a text style over",
    "tokens.make": "made an API token",
    "tokens.revoke": "revoked an API token",
}

_OWNED = {
    "api_targets.drop": "deleted a target",
    "api_targets.keep": "changed a target",
    "people.add": "added a person",
    "people.make_group": "made a group",
    "people.change": "changed a person",
    "people.disable_person": "disabled a person",
    "people.enable_person": "let a person in again",
    "people.end_all": "ended a person’s sign-ins",
    "people.drop_group": "removed a group",
    "people.reset": "reset a person’s password",
    "shelf.leave": "stopped watching a folder",
    "shelf.watch": "began to watch a folder",
    "targets.copy": "copied a target",
    "targets.drop": "deleted a target",
    "targets.import_file": "imported targets",
    "targets.save": "changed a target",
}

RULES: dict[str, Rule] = {
    **_named(Need.NOTHING, _ANYONE),
    **_named(Need.REVIEWER, _READ),
    **_named(Need.DESIGNER, _DESIGN),
    **_named(Need.OWNER, _OWN),
    "metrics.show": Rule(Need.MACHINE),
    **_told(Need.REVIEWER, _REVIEWED),
    **_told(Need.ACCEPT, _ACCEPTED),
    **_told(Need.DESIGNER, _DESIGNED),
    **_told(Need.OWNER, _OWNED),
}
"""The rule of every address of the application and of its API, by the name of its view."""
