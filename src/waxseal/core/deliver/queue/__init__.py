"""Deliveries that wait or run, and whether what is sealed still is."""
