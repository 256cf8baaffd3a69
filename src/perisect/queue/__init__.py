"""The queue: Procrastinate on the database that everything else is in. A task calls a service and does nothing else."""
