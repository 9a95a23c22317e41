"""The window: stages, rail, margin, row tray, and the background work behind them."""
