"""Files and folders of them, by the streaming engine of Polars."""
