"""Write the JSON Schema of a study file into docs/: `python tools/schema.py`."""

import json
from pathlib import Path

from cinetica.files.study_json import schema

Path("docs/study.schema.json").write_text(json.dumps(schema(), indent=1, ensure_ascii=False) + "\n")
