"""The domain objects: tune, course, take, drill, clock and study. Declarations and validation only."""

import os

# There are no plugins of pydantic here; to look for some among all packages takes a fiftieth of a start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
