"""Decide's pages: budgets, needed places, options, decisions and what is handed over."""
