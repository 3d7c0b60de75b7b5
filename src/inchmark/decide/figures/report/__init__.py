"""What a report says: sections of sentences and tables, written once and shown as HTML, PDF, text, CSV."""
