"""Heavy and slow work: what workers do, and the devices they speak to."""
