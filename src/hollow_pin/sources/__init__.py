"""Where live samples come from. One small protocol, and a stand-in for every device."""
