"""Start everything on one machine: a private database cluster, the API, a worker and the stand-ins."""
