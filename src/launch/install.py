"""Install what is missing: Debian packages, the virtualenv, npm libraries, built assets."""

import os
import re
import shutil
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from launch.places import ASSETS, BUILD, PYTHON, REQUIREMENTS, ROOT, VENV, digest, is_done, mark_done
from launch.progress import debian_share, lines_share
from launch.say import GiveUp, step

LOG_TAIL_LINES = 12
MIN_NODE = 20

SERVE_PACKAGES = {
    "mariadb-server-core": "/usr/sbin/mariadbd",
    "mariadb-client": "/usr/bin/mariadb-dump",
    "age": "/usr/bin/age",
    "libmariadb-dev": "/usr/bin/mariadb_config",
    "pkg-config": "/usr/bin/pkg-config",
    "gettext": "/usr/bin/msgfmt",
    "gcc": "/usr/bin/gcc",
    "musescore-general-soundfont-small": "/usr/share/sounds/sf3/MuseScore_General_Lite.sf3",
    "fluidsynth": "/usr/bin/fluidsynth",
    "libpangoft2-1.0-0": "/usr/share/doc/libpangoft2-1.0-0/copyright",
    "libharfbuzz-subset0": "/usr/share/doc/libharfbuzz-subset0/copyright",
}
"""Each package with a file that shows it is there."""
APT_LOCK_SECONDS = 600
PIP_LINE = r"^(?:Collecting|Requirement already satisfied)"
TEST_PACKAGES = {
    "chromium": "/usr/bin/chromium",
    "nginx-light": "/usr/sbin/nginx",
    "openssl": "/usr/bin/openssl",
}


def log_file(name: str) -> Path:
    """Where the output of a command is kept."""
    return BUILD / "logs" / f"{name}.log"


def run(command: Sequence[str], *, log: str, cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Run quietly, keeping the output in build/logs; on failure say its end and give up."""
    file = log_file(log)
    file.parent.mkdir(parents=True, exist_ok=True)
    with file.open("w") as out:
        code = subprocess.run(
            command, cwd=cwd, env={**os.environ, "PYTHONUNBUFFERED": "1", **(env or {})},
            stdin=subprocess.DEVNULL, stdout=out, stderr=subprocess.STDOUT, check=False,
        ).returncode  # fmt: skip
    if code:
        tail = "\n".join(file.read_text(errors="replace").splitlines()[-LOG_TAIL_LINES:])
        raise GiveUp(f"`{' '.join(command[:4])} …` failed; its last lines (all in {file}):\n{tail}")


def twice(command: Sequence[str], *, log: str, env: dict[str, str] | None = None) -> None:
    """Run a command, and once more where it fails. Raises GiveUp."""
    try:
        run(command, log=log, env=env)
    except GiveUp:
        run(command, log=log, env=env)


def debian_packages(wanted: dict[str, str]) -> None:
    missing = [name for name, file in wanted.items() if not Path(file).exists()]
    missing += _python_parts()
    if not missing:
        return
    by_hand = f"apt-get install {' '.join(missing)}"
    apt = shutil.which("apt-get")
    if apt is None:
        raise GiveUp(f"these packages are missing: {', '.join(missing)}; on Debian: {by_hand}")
    prefix: list[str] = []
    if os.geteuid() != 0:
        if shutil.which("sudo") is None:
            raise GiveUp(f"packages are missing and there is no sudo; as root, run: {by_hand}")
        prefix = ["sudo", "--preserve-env=DEBIAN_FRONTEND"]
    quiet = {"DEBIAN_FRONTEND": "noninteractive"}
    with step(f"Debian packages: {', '.join(missing)}", debian_share(log_file("apt"))):
        # Another program may be installing: its lock is waited for. Mirrors fail now and then: once more is often enough.
        log_file("apt").unlink(missing_ok=True)
        waiting = [*prefix, apt, "-q", "-o", f"DPkg::Lock::Timeout={APT_LOCK_SECONDS}"]
        twice([*waiting, "update"], log="apt-update", env=quiet)
        installing = [*waiting, "-o", "APT::Status-Fd=1", "install", "-y", "--no-install-recommends"]
        twice([*installing, *missing], log="apt", env=quiet)


def _python_parts() -> list[str]:
    """Debian splits Python: venv and headers are packages of their own."""
    import sysconfig

    minor = f"python3.{sys.version_info.minor}"
    missing = []
    try:
        import ensurepip  # noqa: F401
    except ImportError:
        missing.append(f"{minor}-venv")
    if not (Path(sysconfig.get_paths()["include"]) / "Python.h").exists():
        missing.append(f"{minor}-dev")
    return missing


def virtualenv(*, with_dev: bool) -> None:
    """`.venv` from the hashed lock file. The larger set serves for both."""
    base, dev = REQUIREMENTS / "base.txt", REQUIREMENTS / "dev.txt"
    stamp, dev_stamp = VENV / ".ready", VENV / ".ready-dev"
    if is_done(dev_stamp, digest(dev)) or (not with_dev and is_done(stamp, digest(base))):
        return
    lock = dev if with_dev else base
    log_file("pip").unlink(missing_ok=True)
    with step(f"Python libraries ({lock.name})", lines_share(log_file("pip"), PIP_LINE, _locked(lock))):
        if not PYTHON.exists():
            run([sys.executable, "-m", "venv", str(VENV)], log="venv")
        run([str(PYTHON), "-m", "pip", "install", "--require-hashes", "-r", str(lock)], log="pip")
    mark_done(stamp, digest(base))
    if with_dev:
        mark_done(dev_stamp, digest(dev))


def _locked(lock: Path) -> int:
    """How many libraries a lock file has."""
    return len(re.findall(r"^[\w.\[\]-]+==", lock.read_text(), re.MULTILINE))


def extra_libraries(lock_name: str) -> None:
    """What one bench needs besides, from a lock file of its own."""
    lock, stamp = REQUIREMENTS / lock_name, VENV / f".ready-{lock_name}"
    if is_done(stamp, digest(lock)):
        return
    with step(f"Python libraries ({lock_name})"):
        run([str(PYTHON), "-m", "pip", "install", "--require-hashes", "-r", str(lock)], log="pip-extra")
    mark_done(stamp, digest(lock))


def node_libraries() -> None:
    lock = ROOT / "package-lock.json"
    stamp = ROOT / "node_modules" / ".ready"
    if is_done(stamp, digest(lock)):
        return
    npm, node = shutil.which("npm"), shutil.which("node")
    if npm is None or node is None:
        raise GiveUp(
            f"Node {MIN_NODE} with npm is needed for the sounds and scripts; install it and run again"
        )
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=True).stdout.strip()
    if int(version.removeprefix("v").split(".")[0]) < MIN_NODE:
        raise GiveUp(f"Node {MIN_NODE} or newer is needed, this one is {version}")
    with step("npm libraries"):
        run([npm, "ci", "--no-fund", "--no-audit"], log="npm")
    mark_done(stamp, digest(lock))


LANGUAGES = ROOT / "src" / "oido" / "languages"
SCRIPTS = ROOT / "tools" / "assets" / "scripts.mjs"


def assets() -> None:
    """Fonts, styles, scripts and the sound bank, from the libraries into build/assets."""
    sources = sorted(path for path in (ROOT / "tools" / "assets").glob("*") if path != SCRIPTS)
    worklet = ROOT / "src" / "oido" / "common" / "worklet" / "synth.js"
    state = digest(ROOT / "package-lock.json", worklet, *sources)
    stamp = ASSETS / ".ready"
    if not is_done(stamp, state):
        with step("fonts, styles, synthesiser, sounds"):
            run(["node", "tools/assets/build.mjs"], log="assets")
        mark_done(stamp, state)
    _scripts()
    catalogues()


def catalogues() -> None:
    """Compile the texts of each language into build/locale, as Django reads them."""
    sources = sorted(LANGUAGES.glob("*/LC_MESSAGES/*.po"))
    made, state = BUILD / "locale", digest(*sources)
    if is_done(made / ".ready", state):
        return
    for source in sources:
        target = made / source.relative_to(LANGUAGES).with_suffix(".mo")
        target.parent.mkdir(parents=True, exist_ok=True)
        run(["msgfmt", "--output-file", str(target), str(source)], log="catalogues")
    mark_done(made / ".ready", state)


def _scripts() -> None:
    """Bundle the pages' scripts, which change more often than the rest."""
    pages = (ROOT / "src" / "oido").glob("*/templates/**/*.html")
    scripts = (ROOT / "src" / "oido").glob("*/static/**/*.js")
    state = digest(SCRIPTS, *sorted(scripts), *sorted(pages))
    stamp = ASSETS / ".scripts-ready"
    if not is_done(stamp, state):
        run(["node", str(SCRIPTS)], log="scripts")
        mark_done(stamp, state)
