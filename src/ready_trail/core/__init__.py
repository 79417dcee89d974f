"""The trade: rules and arithmetic, free of interface, files and database."""
