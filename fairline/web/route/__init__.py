"""Route: its pages and what they post; the cut plan."""

from fairline.web.route.routes import router as router
