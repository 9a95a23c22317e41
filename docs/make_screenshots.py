"""Make every picture in docs/screenshots anew from the demo data:  .venv/bin/python docs/make_screenshots.py"""

import tempfile
from pathlib import Path

from culvix.__main__ import end_process
from culvix.app.shell.picture_views import picture_views
from culvix.demo import write_demo


def main() -> None:
    target = Path(__file__).parent / "screenshots"
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        for picture in picture_views(write_demo(Path(folder) / "hatchery"), target):
            print(picture.relative_to(target.parent))


if __name__ == "__main__":
    main()
    end_process(0)
