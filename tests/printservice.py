"""A print service of the tests' own: CUPS on loopback, with a made-up press that writes what it is sent into a file."""

import os
import shutil
import socket
import subprocess
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path

PRESS = Path(__file__).parent / "data" / "quay.ppd"
_FILES = """ServerRoot {0}/etc
StateDir {0}/state
CacheDir {0}/cache
RequestRoot {0}/spool
TempDir {0}/spool
ServerBin /usr/lib/cups
DataDir /usr/share/cups
AccessLog {0}/log/access
ErrorLog {0}/log/error
PageLog {0}/log/page
FileDevice Yes
SystemGroup root
"""
_SERVER = """Listen 127.0.0.1:{1}
LogLevel debug
Browsing Off
WebInterface No
DefaultAuthType None
<Location />
Order allow,deny
Allow 127.0.0.1
</Location>
<Policy default>
JobPrivateAccess all
SubscriptionPrivateAccess all
<Limit All>
Order allow,deny
Allow 127.0.0.1
</Limit>
</Policy>
"""


def missing():
    """Why there can be none, in words; empty if there can."""
    wanted = ("/usr/sbin/cupsd", "/usr/lib/cups/filter/pdftopdf", *(f"/usr/bin/{name}" for name in ("lp", "lpoptions")))
    absent = [name for name in wanted if not Path(name).exists()]
    if absent or shutil.which("lpadmin") is None:
        return f"Debian's cups and cups-client are not here ({', '.join(absent) or 'lpadmin'})"
    return "" if os.getuid() == 0 else "a print service of one's own is started by root only"


class Service:
    """One that runs."""

    def __init__(self, folder: Path, port: int) -> None:
        self.folder, self.address = folder, f"127.0.0.1:{port}"
        self.page = folder / "out" / "press.pdf"

    def run(self, *words: str) -> str:
        """A command of the print service's."""
        env = {**os.environ, "CUPS_SERVER": self.address, "LC_ALL": "C"}
        return subprocess.run(words, env=env, check=True, capture_output=True, text=True, timeout=60).stdout

    def printed(self) -> str:
        """Wait until nothing is left to be printed; how the last job was asked for: its options."""
        end = time.monotonic() + 120
        while self.run("lpstat", "-o") or not self.page.exists():
            assert time.monotonic() < end, (self.folder / "log" / "error").read_text()[-3000:]
            time.sleep(0.1)
        lines = [line for line in (self.folder / "log" / "error").read_text().splitlines() if "argv[5]=" in line]
        return lines[-1].partition("argv[5]=")[2]


@contextmanager
def running():
    """Start it, with the press, and stop it again."""
    folder = Path(tempfile.mkdtemp(prefix="quay-"))  # not below pytest's folder, which the printing user may not enter
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    for name in ("etc/ppd", "state", "cache", "spool", "log", "out"):
        (folder / name).mkdir(parents=True)
    for path in (folder, *folder.rglob("*")):
        path.chmod(0o777)
    (folder / "files.conf").write_text(_FILES.format(folder))
    (folder / "server.conf").write_text(_SERVER.format(folder, port))
    words = ["/usr/sbin/cupsd", "-c", str(folder / "server.conf"), "-s", str(folder / "files.conf"), "-f"]
    with open(folder / "out.log", "wb") as log:
        process = subprocess.Popen(words, stdout=log, stderr=log)
    service = Service(folder, port)
    try:
        end = time.monotonic() + 60
        while True:
            with socket.socket() as there:
                if there.connect_ex(("127.0.0.1", port)) == 0:
                    break
            assert process.poll() is None, (folder / "out.log").read_text()
            assert time.monotonic() < end
            time.sleep(0.05)
        service.run("lpadmin", "-p", "press", "-v", f"file://{service.page}", "-P", str(PRESS), "-E")
        service.run("lpadmin", "-d", "press")
        yield service
    finally:
        process.terminate()
        process.wait(60)
        shutil.rmtree(folder, ignore_errors=True)
