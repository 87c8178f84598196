"""What pip installs: a wheel, or an sdist that gives the same wheel, is the whole application without Node."""

import re
import shutil
import subprocess
import sys
import sysconfig
import tarfile
import urllib.request
import zipfile
from pathlib import Path

import pytest

# Among the tests in the browser, for which the interface is built.
ROOT = Path(__file__).parents[2]


def built(source: Path, kind: str, to: Path) -> Path:
    command = [sys.executable, "-m", "hatchling", "build", "-t", kind, "-d", str(to)]
    subprocess.run(command, cwd=source, check=True, capture_output=True)
    (path,) = to.iterdir()
    return path


def names(wheel: Path) -> set[str]:
    with zipfile.ZipFile(wheel) as archive:
        return set(archive.namelist())


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return built(ROOT, "wheel", tmp_path_factory.mktemp("wheel"))


def test_the_wheel_serves_the_demo_with_its_interface_where_there_is_no_node(
    wheel: Path, demo_data: Path, tmp_path: Path
) -> None:
    """In an environment of its own, which borrows the libraries, but not the package, of this one; and the demo's job,
    which takes a minute to make.
    """
    shutil.copytree(demo_data, tmp_path / "data")
    where = tmp_path / "installed"
    subprocess.run([sys.executable, "-m", "venv", str(where)], check=True)
    pip = [str(where / "bin" / "python"), "-m", "pip", "install", "--quiet", "--no-deps", "--no-index", str(wheel)]
    subprocess.run(pip, check=True)
    (site,) = where.glob("lib/*/site-packages")
    (site / "libraries.pth").write_text(sysconfig.get_path("purelib") + "\n")
    command = [str(where / "bin" / "wedge-turn"), "serve", "--demo", "--data", str(tmp_path / "data"), "--port", "0"]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, text=True, cwd=tmp_path, env={"PATH": "/nowhere", "HOME": str(tmp_path)}
    ) as server:
        try:
            assert server.stdout is not None
            address = re.search(r"http://\S+/", server.stdout.readline())
            assert address is not None
            page = urllib.request.urlopen(address[0], timeout=120).read().decode()
            assets = re.findall(r'(?:src|href)="(/assets/[^"]+)"', page)
            assert assets
            for asset in assets:
                assert urllib.request.urlopen(address[0].rstrip("/") + asset, timeout=60).status == 200
            jobs = urllib.request.urlopen(address[0] + "api/jobs", timeout=60).read().decode()
            assert "Kettle Island Light" in jobs
        finally:
            server.terminate()
    home = subprocess.run(
        [str(where / "bin" / "python"), "-c", "import wedge_turn; print(wedge_turn.__file__)"],
        check=True, capture_output=True, text=True, cwd=tmp_path,
    )  # fmt: skip
    assert str(where) in home.stdout, "what was tried is what was installed"


def test_the_sdist_gives_the_same_wheel(wheel: Path, tmp_path: Path) -> None:
    sdist = built(ROOT, "sdist", tmp_path / "sdist")
    with tarfile.open(sdist) as archive:
        archive.extractall(tmp_path / "source", filter="data")
    (source,) = (tmp_path / "source").iterdir()
    assert names(built(source, "wheel", tmp_path / "again")) == names(wheel)
    assert any(name.endswith("webapp/index.html") for name in names(wheel))
    package = ROOT / "src"
    kept = (path for path in package.rglob("*") if path.is_file() and "__pycache__" not in path.parts)
    assert {str(path.relative_to(package)) for path in kept} <= names(wheel)
    assert not any(part in name for name in names(wheel) for part in ("tests/", "node_modules", "__pycache__"))
