import Button from "@mui/material/Button";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { useKeys } from "../app/keys";
import { Trouble } from "../app/parts";

type Axis = Schemas["KernelAxis"];

/** What the kernel believes of the axes; written to after asking, and put back by one key. */
export function KernelRange({
  jobId,
  takeId,
  kernel,
}: {
  jobId: number;
  takeId: number;
  kernel: Schemas["Kernel"];
}) {
  const [asked, setAsked] = useState(false);
  const path = { params: { path: { job_id: jobId } } };
  const write = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/calibration/kernel", {
          ...path,
          body: { take_id: takeId, axes: [...kernel.offered] },
        }),
      ),
    ofJob(jobId),
  );
  const restore = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/calibration/kernel/restore", {
          ...path,
          body: { take_id: takeId },
        }),
      ),
    ofJob(jobId),
  );
  const written = kernel.kept.length > 0;
  const back = () => restore.mutate(undefined);
  useKeys([{ key: "u", shown: "U", does: "put the kernel’s back", run: back, when: written }]);
  return (
    <section aria-label="What the kernel believes" className="block">
      <h2>What the kernel believes of {kernel.path}</h2>
      {kernel.trouble && <p className="lead">{kernel.trouble}</p>}
      {kernel.axes.length > 0 && (
        <table className="calibration-numbers">
          <thead>
            <tr>
              <th scope="col">axis: low, high, flat, fuzz</th>
              {kernel.axes.map((a) => (
                <th key={a.code} scope="col">
                  {a.code}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Row says="now" axes={kernel.axes} />
            {kernel.offered.length > 0 && <Row says="as this take has it" axes={kernel.offered} />}
            {written && <Row says="before it was written to here" axes={kernel.kept} />}
          </tbody>
        </table>
      )}
      <p className="hint soft">
        It lasts until the device is unplugged. It knows no centre of its own: ends alike on both
        sides of it, and a flat place in the middle.
      </p>
      <p className="actions">
        {kernel.offered.length > 0 && !asked && (
          <Button onClick={() => setAsked(true)}>Write this take’s to the kernel</Button>
        )}
        {asked && (
          <Button
            variant="contained"
            onClick={() => write.mutate(undefined, { onSuccess: () => setAsked(false) })}
          >
            Every program on this machine is given these. Write them
          </Button>
        )}
        {written && (
          <Button onClick={back}>
            Put back what it believed before <kbd>U</kbd>
          </Button>
        )}
      </p>
      <Trouble error={write.error ?? restore.error} />
    </section>
  );
}

function Row({ says, axes }: { says: string; axes: readonly Axis[] }) {
  return (
    <tr>
      <th scope="row">{says}</th>
      {axes.map((a) => (
        <td key={a.code}>
          {a.lo}, {a.hi}, {a.flat}, {a.fuzz}
        </td>
      ))}
    </tr>
  );
}
