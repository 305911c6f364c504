import Button from "@mui/material/Button";
import { Link, useRouteError } from "react-router";

/** An address that leads nowhere. */
export function NotHere() {
  return (
    <section className="page">
      <h1 className="sentence">There is nothing at this address.</h1>
      <p>
        <Button component={Link} to="/">
          To the bench
        </Button>
      </p>
    </section>
  );
}

/** A screen that failed. What was recorded is on the server and untouched. */
export function FailedScreen() {
  const error = useRouteError();
  return (
    <section className="page" role="alert">
      <h1 className="sentence">This screen failed to show.</h1>
      <p>{error instanceof Error ? error.message : "Unknown reason."}</p>
      <p>What was recorded is kept, and the rest of the bench works on.</p>
      <Button onClick={() => window.location.reload()}>Load it again</Button>
    </section>
  );
}
