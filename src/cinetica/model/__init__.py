"""The domain objects: tune, course, take, drill, clock and study. Declarations and validation only."""

import os

# No pydantic plugins are used; searching all packages for them takes 2% of the start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
