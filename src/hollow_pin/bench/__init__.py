"""What a technician does at the bench, one transaction each; API, command line and demo call it."""
