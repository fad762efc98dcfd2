"""A PostgreSQL server of a test's own, where one is installed."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import tempfile
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from collections.abc import Iterator


@dataclass(frozen=True)
class Server:
    """Its address, and the process that the others are children of."""

    address: str
    process: int

    @contextmanager
    def standing_still(self) -> Iterator[None]:
        """It answers nothing meanwhile, and does not say so."""
        children = Path(f"/proc/{self.process}/task/{self.process}/children").read_text(encoding="ascii").split()
        all_of_them = [self.process, *map(int, children)]
        for process in all_of_them:
            os.kill(process, signal.SIGSTOP)
        try:
            yield
        finally:
            for process in all_of_them:
                os.kill(process, signal.SIGCONT)


@contextmanager
def running() -> Iterator[Server]:
    """One that is stopped again at the end; the test is left out where there is none."""
    tools = max(Path("/usr/lib/postgresql").glob("*/bin"), default=None)
    if tools is None:
        pytest.skip("PostgreSQL is not installed")
    as_root = os.geteuid() == 0
    if as_root and shutil.which("runuser") is None:
        pytest.skip("PostgreSQL does not run as root, and runuser is missing")
    before = ["runuser", "-u", "nobody", "--"] if as_root else []
    with tempfile.TemporaryDirectory(prefix="jete-server-") as folder:
        if as_root:
            shutil.chown(folder, "nobody")

        def run(*command: object) -> None:
            subprocess.run([*before, *map(str, command)], check=True, capture_output=True, cwd="/")

        data, port = Path(folder) / "data", free_port()
        run(tools / "initdb", "-D", data, "-A", "trust", "-U", "jete")
        options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
        run(tools / "pg_ctl", "-D", data, "-l", Path(folder) / "log", "-o", options, "-w", "start")
        process = int((data / "postmaster.pid").read_text(encoding="utf-8").split()[0])
        yield Server(f"postgresql+psycopg://jete@127.0.0.1:{port}/postgres", process)
        run(tools / "pg_ctl", "-D", data, "-m", "immediate", "stop")


def free_port() -> int:
    """A port that nothing listens at."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
    return port
