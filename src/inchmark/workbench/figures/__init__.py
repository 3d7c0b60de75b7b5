"""What the workbench answers: figures with their formula and source."""
