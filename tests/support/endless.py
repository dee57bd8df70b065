"""Work for `harnet.media.bounded` as tests need it: endless, faulty, or asking where it is."""

import os
import signal
import time
from pathlib import Path
from resource import RUSAGE_SELF, getrusage

from harnet.media.pixels import print_copy


def work(order, tell):
    asked = order.get("ask")
    if asked == "surroundings":
        return {"keys": sorted(os.environ)}
    if asked == "fault":
        return {"never": 1 / 0}
    if asked == "write":
        Path(order["path"]).write_bytes(bytes(50_000_000))
        return {}
    if asked == "echo":
        return {"number": order["number"]}
    if asked == "parent":
        return {"parent": os.getppid()}
    if asked == "fall":
        os.kill(os.getpid(), signal.SIGSEGV)
    if asked == "copy":
        return print_copy.work(order, tell) | {"peak_kb": getrusage(RUSAGE_SELF).ru_maxrss}
    if asked == "wait":
        Path(order["path"]).write_text(str(os.getpid()))
        time.sleep(300)
        return {}
    return endless(order)


def endless(order):
    """Begins another process, and ends neither it nor itself."""
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
