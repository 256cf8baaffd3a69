"""What is kept: jobs and their steps, artwork, prints and runs in PostgreSQL; bytes in blobs."""
