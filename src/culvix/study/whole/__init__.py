"""The whole of a table that lies elsewhere: surveyed by the engine that holds it, sampled to be worked with."""
