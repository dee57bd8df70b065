"""Reports as one HTML file that needs nothing beside it."""

from jinja2 import Environment, PackageLoader

from harnet.core.measure.wording import counted, ppi_text, share_text

_TEMPLATES = Environment(
    loader=PackageLoader("harnet.studio"),
    autoescape=True,
    trim_blocks=True,
    lstrip_blocks=True,
)
_TEMPLATES.filters.update(counted=counted, ppi=ppi_text, share=share_text)


def report_file(template: str, **values: object) -> str:
    """The report that a template of this package makes of these values."""
    return _TEMPLATES.get_template(template).render(values)
