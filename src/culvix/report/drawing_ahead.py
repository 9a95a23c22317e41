"""Pictures drawn in another process while the report they are for is still being put together."""

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager

from culvix.report.parts import PictureBlock
from culvix.report.remembered_pictures import RememberedPictures
from culvix.report.render_process import RenderProcess

__all__ = ["drawing_ahead"]

Draw = Callable[[PictureBlock], str]


@contextmanager
def drawing_ahead(draw: Draw) -> Iterator[tuple[Callable[[PictureBlock], None], Draw]]:
    """What begins to draw a picture, and what gives it when it is needed.

    Only a process of its own can draw ahead; whatever else ``draw`` is, it draws when the picture is needed.
    """
    if not isinstance(getattr(draw, "__self__", None), RenderProcess | RememberedPictures):
        yield lambda block: None, draw
        return
    begun: dict[str, Future[str]] = {}
    with ThreadPoolExecutor(1) as worker:

        def pictured(block: PictureBlock) -> None:
            begun[block.name] = worker.submit(draw, block)

        def drawn(block: PictureBlock) -> str:
            return begun[block.name].result() if block.name in begun else draw(block)

        try:
            yield pictured, drawn
        except BaseException:
            # Nobody waits for what was begun for nothing.
            worker.shutdown(wait=False, cancel_futures=True)
            raise
