"""The doors: FastAPI routers, thin: validate, call core, store."""
