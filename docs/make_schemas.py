"""Write the JSON Schemas of study documents and recipes from the types in the code."""

from pathlib import Path

import msgspec

from culvix.study.document.document_format import document_schema
from culvix.study.recipes.recipe_format import recipe_schema

HERE = Path(__file__).parent

if __name__ == "__main__":
    for name, schema in (("document", document_schema()), ("recipe", recipe_schema())):
        path = HERE / f"{name}.schema.json"
        path.write_bytes(msgspec.json.format(msgspec.json.encode(schema), indent=1) + b"\n")
        print(path)
