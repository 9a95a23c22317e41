"""One-column outlier methods, one module each, all returning an `OutlierResult`."""
