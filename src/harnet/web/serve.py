"""What gunicorn serves: `gunicorn harnet.web.serve:app`."""

from harnet.studio.desk import Settings
from harnet.web.app import create_app

app = create_app(Settings.from_environment())
