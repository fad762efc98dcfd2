"""The laps of a command on all cores, by copies of its process.

A copy (POSIX ``fork``) has all that was read already and at no cost; what it works out comes back
through a pipe, with the logs of this process in it again, so that laps of one log still are.  Where
a copy fails, its share is done here, and fails here as it would have without it.  For commands only:
a process with a window must not be copied.
"""

from __future__ import annotations

import gc
import os
import pickle
from contextlib import ExitStack
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, BinaryIO

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jete.core.causes.verdict.result import LapComparison
    from jete.core.log.lap import Lap, Log

    Work = Callable[[Lap], LapComparison]

# A copy is begun and read in some 30 ms: what a lap takes.
LEAST_LAPS = 4


def on_all_cores(work: Work, laps: Sequence[Lap]) -> list[LapComparison]:
    """What is worked out of each lap, in their order."""
    count = min(len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else 1, len(laps) // LEAST_LAPS)
    if count < 2 or not hasattr(os, "fork"):
        return [work(lap) for lap in laps]
    logs = list({id(lap.log): lap.log for lap in laps}.values())
    shares = [laps[k::count] for k in range(count)]
    with ExitStack() as stack:
        # What is there already need not be looked through, and so copied, by a copy.
        gc.freeze()
        stack.callback(gc.unfreeze)
        copies = []
        for share in shares[1:]:
            copies.append(_Copy.begun(work, share, logs))
            stack.callback(copies[-1].end)
        done = [[work(lap) for lap in shares[0]]]
        for copy, share in zip(copies, shares[1:], strict=True):
            found = copy.answer(logs)
            done.append([work(lap) for lap in share] if found is None else found)
    return [done[k % count][k // count] for k in range(len(laps))]


@dataclass(frozen=True, eq=False)
class _Copy:
    """A copy of this process that works, and the end of the pipe on which its answer comes."""

    pid: int
    pipe: BinaryIO

    @classmethod
    def begun(cls, work: Work, share: Sequence[Lap], logs: Sequence[Log]) -> _Copy:
        """Begin a copy that does a share; the copy itself never returns from here."""
        reads, writes = os.pipe()
        pid = os.fork()
        if pid == 0:
            try:
                os.close(reads)
                with os.fdopen(writes, "wb") as pipe:
                    _Pickler(pipe, logs).dump([work(lap) for lap in share])
            finally:
                os._exit(0)
        os.close(writes)
        return cls(pid, os.fdopen(reads, "rb"))

    def answer(self, logs: Sequence[Log]) -> list[LapComparison] | None:
        """What it worked out; None where it failed."""
        try:
            found: list[LapComparison] = _Unpickler(self.pipe, logs).load()
        except (EOFError, OSError, pickle.UnpicklingError):
            return None
        return found

    def end(self) -> None:
        """Take leave of it: one that still writes finds its pipe closed, and ends."""
        self.pipe.close()
        os.waitpid(self.pid, 0)


class _Pickler(pickle.Pickler):
    """Writes logs as their number among those that both processes have."""

    def __init__(self, pipe: BinaryIO, logs: Sequence[Log]) -> None:
        super().__init__(pipe, protocol=pickle.HIGHEST_PROTOCOL)
        self._numbers = {id(log): k for k, log in enumerate(logs)}

    def persistent_id(self, obj: Any) -> int | None:
        """The number of a log, None for all else."""
        return self._numbers.get(id(obj))


class _Unpickler(pickle.Unpickler):
    """Reads logs by their number."""

    def __init__(self, pipe: BinaryIO, logs: Sequence[Log]) -> None:
        super().__init__(pipe)
        self._logs = logs

    def persistent_load(self, number: Any) -> Log:
        """The log of a number."""
        log: Log = self._logs[number]
        return log
