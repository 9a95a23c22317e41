"""Write `document.schema.json`, the JSON Schema of study documents, from the types in the code."""

from pathlib import Path

import msgspec

from culvix.study.document.document_format import document_schema

PATH = Path(__file__).with_name("document.schema.json")

if __name__ == "__main__":
    PATH.write_bytes(msgspec.json.format(msgspec.json.encode(document_schema()), indent=1) + b"\n")
    print(PATH)
