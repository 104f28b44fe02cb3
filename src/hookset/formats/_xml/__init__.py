"""XML: parsing, values by XPath, places, entries, and what people paste."""
