"""Work for `harnet.media.bounded` that begins another process, and ends neither it nor itself."""

import os
import signal
import time
from pathlib import Path


def work(order, tell):
    pid = os.fork()
    if not pid:
        null = os.open(os.devnull, os.O_WRONLY)
        os.dup2(null, 1)
        time.sleep(600)
        os._exit(0)
    Path(order["told"]).write_text(str(pid))
    if order.get("falls"):
        os.kill(os.getpid(), signal.SIGKILL)
    time.sleep(600)
