"""What keeps the service up: health, figures for monitoring, jobs taken up again, backups."""
