"""Open files to core records and back: frame logs, stops, typed quantities, reference tables."""
