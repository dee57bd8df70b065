"""A studio whose outside world is simulated."""

from harnet.standins.agency import TarnholmAgency
from harnet.standins.print_houses import print_houses
from harnet.studio.common.settings import Settings
from harnet.studio.common.studio import Studio
from harnet.studio.judging.judging import settle


def open_studio(settings: Settings) -> Studio:
    """The studio of these settings, with the simulated agency and print houses.

    The caller disposes of its `engine`.
    """
    agency = TarnholmAgency(settings.agency_folder)
    return Studio(settings, agency, print_houses(), settle)
