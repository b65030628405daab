"""The web service: one router for each screen's resource, events, and the built front end."""
