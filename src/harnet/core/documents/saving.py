"""What a document's own settings say about its pictures, in plain words."""

from harnet.core.documents.document import SavingSettings
from harnet.core.measure.wording import counted


def saving_sentences(saving: SavingSettings) -> list[str]:
    """What happens to pictures when the document is saved, and what was done to them; or nothing.

    >>> saving_sentences(SavingSettings(shrinks=False, default_ppi=0))
    ['By its settings, pictures keep every pixel when it is saved.']
    """
    sentences = []
    if saving.shrinks is False or (saving.shrinks is None and saving.default_ppi == 0):
        sentences.append("By its settings, pictures keep every pixel when it is saved.")
    elif saving.shrinks or saving.default_ppi:
        to = f" to {saving.default_ppi} ppi" if saving.default_ppi else ""
        sentences.append(f"By its settings, pictures are shrunk{to} when it is saved.")
    if saving.discards_edits is not None:
        done = "thrown away" if saving.discards_edits else "kept in the file"
        sentences.append(f"Cropped-off parts and what stood before an effect are {done}.")
    for ppi, count in saving.marked_ppi.items():
        many = counted(count, "picture is", "pictures are")
        sentences.append(f"{many} marked as shrunk for {ppi} ppi.")
    return sentences


def loses_pixels(saving: SavingSettings) -> bool:
    """Whether the settings have pixels thrown away when the document is saved."""
    return bool(
        saving.shrinks or saving.discards_edits or (saving.shrinks is None and saving.default_ppi)
    )
