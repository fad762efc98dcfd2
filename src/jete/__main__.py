"""``python -m jete``."""

from __future__ import annotations

import sys

from jete.cli import main

sys.exit(main())
