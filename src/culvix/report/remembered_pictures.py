"""Pictures that were drawn before: the same picture is not drawn again for the next report."""

import hashlib
import pickle
import threading
from collections import OrderedDict
from collections.abc import Callable

from culvix.report.parts import PictureBlock

__all__ = ["RememberedPictures"]

_MOST = 500
"""Pictures remembered at the most."""


class RememberedPictures:
    """Draws with ``draw`` what it does not remember; safe to call from any thread."""

    def __init__(self, draw: Callable[[PictureBlock], str]) -> None:
        self._draw = draw
        self._known: OrderedDict[bytes, str] = OrderedDict()
        self._lock = threading.Lock()

    def draw(self, block: PictureBlock) -> str:
        """The picture of ``block`` as an SVG element. Raises what drawing raises."""
        # Two that are the same may be written down otherwise, and are drawn twice; two that differ never look the same.
        written = pickle.dumps((block.picture, block.width, block.height, block.lanes))
        key = hashlib.blake2b(written, digest_size=20).digest()
        with self._lock:
            known = self._known.get(key)
            if known is not None:
                self._known.move_to_end(key)
                return known
        drawn = self._draw(block)
        with self._lock:
            self._known[key] = drawn
            while len(self._known) > _MOST:
                self._known.popitem(last=False)
        return drawn
