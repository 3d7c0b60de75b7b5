"""What can be asked of the service and done for it."""
