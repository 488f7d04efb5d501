"""The web service: routes, the live socket, and the work that goes on behind them."""
