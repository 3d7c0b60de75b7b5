"""The workbench: plain radio questions, answered without a study."""
