"""The steps of docs/install.md, followed as far as a machine without systemd allows."""

import http.cookiejar
import os
import re
import shutil
import socket
import ssl
import subprocess
import sysconfig
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path

import pytest

from tests.support.databases import new_database

ROOT = Path(__file__).parents[3]
LONG = 120
STEPS = {
    title: re.findall(r"```bash\n(.*?)```", text, re.DOTALL)
    for title, text in re.findall(
        r"^## (.*?)\n(.*?)(?=^## |\Z)", (ROOT / "docs" / "install.md").read_text(), re.M | re.DOTALL
    )
}
LEFT_OUT = ("apt-get", "script/setup", "adduser", "runuser -u postgres", "systemctl", "nginx -t")
"""What a test must not do to a machine, or what systemd would do; they are looked at otherwise."""


class Machine:
    """A machine in a folder: what the document puts into places of its own lies below it."""

    def __init__(self, folder, url, harnet_port, tls_port):
        self.folder, self.port, self.tls_port = folder, harnet_port, tls_port
        self.url = url
        for name in ("source", "etc/nginx/conf.d", "etc/systemd/system", "var/backups/harnet"):
            (folder / name).mkdir(parents=True)
        shutil.copytree(ROOT / "deploy", folder / "source" / "deploy")
        shutil.copytree(ROOT / "requirements", folder / "source" / "requirements")

    def here(self, text):
        """Words of the document with this machine's places."""
        for place in ("/opt/harnet", "/etc/", "/srv/harnet", "/var/backups/harnet"):
            text = re.sub(rf"(?<![\w/]){place}", f"{self.folder}{place}", text)
        text = text.replace("runuser -u harnet -- ", "").replace("-o harnet -g harnet ", "")
        text = re.sub(r"\b8000\b", str(self.port), text.replace("-g harnet ", ""))
        # What it depends on is here already, and need not be fetched.
        return re.sub(r"^.*--require-hashes.*$", ":", text, flags=re.M)

    def follows(self, title, number=None):
        """Runs the blocks of a step; the output of the last."""
        blocks = STEPS[title] if number is None else [STEPS[title][number]]
        said = ""
        for block in blocks:
            lines = [line for line in block.splitlines() if not line.startswith(LEFT_OUT)]
            run = subprocess.run(
                ["bash", "-euo", "pipefail", "-c", self.here("\n".join(lines))],
                cwd=self.folder / "source",
                env=self.environment,
                capture_output=True,
                text=True,
                check=False,
                timeout=LONG,
            )
            assert run.returncode == 0, (title, lines, run.stdout, run.stderr)
            said = run.stdout
        return said

    def harnet(self, words):
        """What the command says on this machine."""
        settings = "HARNET_SETTINGS=/etc/harnet/settings"
        command = self.here(f"env {settings} /opt/harnet/venv/bin/harnet {words}")
        run = subprocess.run(
            ["bash", "-c", command],
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
            timeout=LONG,
        )
        return run.stdout

    @property
    def environment(self):
        clean = {name: value for name, value in os.environ.items() if "HARNET" not in name}
        clean.pop("PYTHONPATH", None)
        return clean

    def unit(self, name):
        """What a unit runs, and with which environment."""
        text = self.here((self.folder / "etc/systemd/system" / name).read_text())
        command = re.search(r"^ExecStart=(.*)$", text, re.M)[1].replace("%%", "%")
        settings = dict(re.findall(r"^Environment=(\w+)=(.*)$", text, re.M))
        return ["bash", "-c", f"exec {command}"], self.environment | settings


@pytest.fixture
def machine(tmp_path):
    with new_database("install") as url, socket.socket() as one, socket.socket() as two:
        for probe in (one, two):
            probe.bind(("127.0.0.1", 0))
        ports = one.getsockname()[1], two.getsockname()[1]
        one.close()
        two.close()
        yield Machine(tmp_path, url, *ports)


@pytest.fixture
def started():
    """Starts processes, and ends them."""
    running = []

    def start(command, environment, **more):
        running.append(subprocess.Popen(command, env=environment, **more))
        return running[-1]

    yield start
    for process in reversed(running):
        process.terminate()
        process.wait(30)


def test_every_step_is_known():
    assert [title for title in STEPS if STEPS[title]] == [
        "1. Packages",
        "2. The program",
        "3. A user, folders, a database",
        "4. Settings",
        "5. The studio and its first owner",
        "6. Web, worker, backups",
        "7. nginx with TLS",
        "8. Is it well?",
        "Backups, and another machine",
        "Upgrades",
    ]


def test_from_a_bare_machine_to_a_restored_studio(machine, wheel, started, tmp_path):
    # Step 2: the wheel that the document builds is built by another test's fixture.
    (machine.folder / "source" / "dist").mkdir()
    shutil.copy(wheel, machine.folder / "source" / "dist")
    machine.follows("2. The program", 1)
    _lend_packages(machine.folder / "opt/harnet/venv")
    machine.follows("3. A user, folders, a database")
    machine.follows("4. Settings", 0)
    settings = machine.folder / "etc/harnet/settings"
    text = re.sub(
        r"^HARNET_DATABASE=.*$", f"HARNET_DATABASE={machine.url}", settings.read_text(), flags=re.M
    )
    settings.write_text(machine.here(text))
    assert str(machine.folder / "srv/harnet") in machine.follows("4. Settings", 1)
    password = machine.follows("5. The studio and its first owner").strip().splitlines()[-1]
    machine.follows("6. Web, worker, backups")
    machine.follows("7. nginx with TLS")

    log = (tmp_path / "log").open("wb")
    for name in ("harnet-web.service", "harnet-worker@.service"):
        command, environment = machine.unit(name)
        started(command, environment, stdout=log, stderr=log)
    _serve_by_nginx(machine, started, log)
    until = time.monotonic() + LONG
    while "One gave a sign" not in machine.harnet("doctor"):
        assert time.monotonic() < until, (tmp_path / "log").read_text()
        time.sleep(0.5)
    assert '"state":"ready"' in machine.follows("8. Is it well?")

    browser = _Browser(machine.tls_port)
    assert "Sign in" in browser.reads("/jobs")
    page = browser.sends("/sign-in", name="Ada Lind", password=password)
    assert "Choose your own password" in page
    assert all(cookie.secure for cookie in browser.cookies), list(browser.cookies)
    assert browser.status_of("/metrics") == 403

    backup = machine.here("/var/backups/harnet/now")
    machine.follows("Backups, and another machine", 0)
    assert (Path(backup) / "manifest.json").exists() or list(Path(backup).iterdir())
    command, environment = machine.unit("harnet-backup.service")
    assert subprocess.run(command, env=environment, check=False, timeout=LONG).returncode == 0
    assert len(list(Path(backup).parent.iterdir())) == 2
    with new_database("restored") as url:
        text = settings.read_text().replace(machine.url, url)
        settings.write_text(text.replace(str(machine.folder / "srv"), str(tmp_path / "new")))
        machine.follows("Backups, and another machine", 1)
        machine.follows("Upgrades")
        assert "Ada Lind" in machine.harnet("person list")


def test_the_units_are_such_as_systemd_takes(machine):
    verify = shutil.which("systemd-analyze")
    if verify is None:
        pytest.skip("systemd is not installed here")
    units = machine.folder / "etc/systemd/system"
    machine.follows("6. Web, worker, backups")
    program = machine.folder / "opt/harnet/venv/bin/harnet"
    program.parent.mkdir(parents=True)
    program.write_text("#!/bin/sh\n")
    program.chmod(0o755)
    for unit in units.iterdir():
        unit.write_text(machine.here(unit.read_text()))
    names = ["harnet-web.service", "harnet-worker@1.service", "harnet-backup.timer"]
    (units / names[1]).write_text((units / "harnet-worker@.service").read_text())
    run = subprocess.run(
        [verify, "verify", "--man=no", *(str(units / name) for name in names)],
        capture_output=True, text=True, check=False, timeout=LONG,
    )  # fmt: skip
    about_these = [line for line in run.stderr.splitlines() if "harnet" in line]
    assert about_these == []


def _lend_packages(environment):
    """What Harnet depends on comes from where the tests run; Harnet itself is the wheel's."""
    (own,) = environment.glob("lib/python*/site-packages")
    (own / "dependencies.pth").write_text(sysconfig.get_paths()["purelib"] + "\n")


def _serve_by_nginx(machine, started, log):
    """nginx with the document's configuration, on ports that anyone may use."""
    text = machine.here((machine.folder / "etc/nginx/conf.d/harnet.conf").read_text())
    text = re.sub(r"server \{\s+listen 80;.*?\n\}\n", "", text, flags=re.DOTALL)
    text = text.replace("listen 443 ssl", f"listen 127.0.0.1:{machine.tls_port} ssl")
    text = text.replace("harnet.example", "localhost")
    whole = machine.folder / "nginx.conf"
    folder = machine.folder / "nginx"
    folder.mkdir()
    kept = "".join(
        f"{kind}_temp_path {folder}/{kind}; "
        for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    whole.write_text(
        f"daemon off; pid {folder}/pid; error_log {folder}/error.log;\n"
        f"events {{}}\nhttp {{ access_log off; {kept}\n{text} }}\n"
    )
    command = ["/usr/sbin/nginx", "-e", f"{folder}/error.log", "-c", str(whole)]
    checked = subprocess.run([*command, "-t"], capture_output=True, text=True, check=False)
    assert checked.returncode == 0, checked.stderr
    started(command, os.environ, stdout=log, stderr=log)


class _Browser:
    """A browser that takes the certificate which the document makes."""

    def __init__(self, port):
        self.address = f"https://localhost:{port}"
        self.cookies = http.cookiejar.CookieJar()
        context = ssl.create_default_context()
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
        self._opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=context),
            urllib.request.HTTPCookieProcessor(self.cookies),
        )

    def reads(self, path, data=None):
        until = time.monotonic() + LONG
        while True:
            try:
                request = urllib.request.Request(self.address + path, data)
                request.add_header("Referer", self.address + path)
                with self._opener.open(request, timeout=30) as answer:
                    self.page = answer.read().decode()
                    return self.page
            except urllib.error.HTTPError as error:
                if error.code != 502:
                    raise
                assert time.monotonic() < until
            except OSError:
                assert time.monotonic() < until
            time.sleep(0.3)

    def sends(self, path, **fields):
        token = re.search(r'name="csrf_token"\s+value="([^"]+)"', self.page)[1]
        return self.reads(path, urllib.parse.urlencode(fields | {"csrf_token": token}).encode())

    def status_of(self, path):
        try:
            self.reads(path)
        except urllib.error.HTTPError as error:
            return error.code
        return 200
