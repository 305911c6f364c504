"""The web application: routes, shapes at the edge, errors as problem details."""
