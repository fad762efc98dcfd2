"""LAPACK's banded Cholesky routines, without the half second that scipy.linalg takes to import.

SciPy ships them in one extension module that needs NumPy only; it is loaded by its path.
Where a release has moved it, the public import serves.
"""

from __future__ import annotations

from functools import lru_cache
from importlib import util
from pathlib import Path
from types import ModuleType


@lru_cache(maxsize=1)
def lapack() -> ModuleType:
    """The module that holds ``dpbtrf`` and ``dpbtrs``."""
    found = util.find_spec("scipy")
    folder = Path(found.origin).parent / "linalg" if found and found.origin else None
    path = next(folder.glob("_flapack*.so"), None) if folder else None
    spec = util.spec_from_file_location("_flapack", path) if path else None
    if spec is not None and spec.loader is not None:
        module = util.module_from_spec(spec)
        spec.loader.exec_module(module)
        if hasattr(module, "dpbtrf") and hasattr(module, "dpbtrs"):
            return module
    from scipy.linalg import lapack as public

    return public  # type: ignore[no-any-return]
