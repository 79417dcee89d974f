"""The web application: routers, pages, templates. No engineering arithmetic lives here."""
