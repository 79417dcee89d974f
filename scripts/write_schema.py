"""Write the published JSON Schema of the job file."""

import json
from pathlib import Path

from ready_trail.formats.job_json import job_schema

PATH = Path(__file__).parent.parent / "docs" / "job.schema.json"

if __name__ == "__main__":
    PATH.write_text(json.dumps(job_schema(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
