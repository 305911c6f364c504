import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { devicesQuery, useChange } from "../api/queries";
import { moment } from "../app/format";
import { Loading, Page, Remove, Trouble } from "../app/parts";
import "./shop.css";

type Device = Schemas["PairedDevice"];

export const MAY: Record<Device["role"], string> = {
  bench: "everything, live takes included",
  desk: "everything but takes and function checks",
  viewer: "look, and change nothing",
};

/** The other machines that may speak to this bench, and the code by which one more may. */
export function Component() {
  const { data: devices, error } = useQuery(devicesQuery);
  if (!devices && !error) return <Loading what="the devices" />;
  return (
    <Page title="Devices">
      <p className="lead">
        Another machine on the network speaks to this bench only after it has paired: open the
        bench’s address there, and type in a code that is shown here. A code is good once, for ten
        minutes.
      </p>
      <Trouble error={error} />
      <NewCode />
      {devices?.length === 0 && <p className="soft">No other machine has paired.</p>}
      <ul className="sheet">
        {devices?.map((d) => (
          <DeviceRow key={d.id} device={d} />
        ))}
      </ul>
    </Page>
  );
}

function NewCode() {
  const [role, setRole] = useState<Device["role"]>("desk");
  const make = useChange(
    () => data(api.POST("/api/devices/codes", { body: { role } })),
    [["devices"]],
  );
  return (
    <div className="block">
      <div className="form">
        <TextField
          select
          label="It may"
          value={role}
          onChange={(e) => setRole(e.target.value as Device["role"])}
        >
          {Object.entries(MAY).map(([value, text]) => (
            <MenuItem key={value} value={value}>
              {value}: {text}
            </MenuItem>
          ))}
        </TextField>
        <p className="actions">
          <Button
            variant="contained"
            disabled={make.isPending}
            onClick={() => make.mutate(undefined)}
          >
            Show a code
          </Button>
        </p>
      </div>
      {make.data && (
        <p role="status">
          <strong className="figures pairing-code">{make.data.code}</strong>{" "}
          <span className="soft">
            pairs one {make.data.role}, until {moment(make.data.expires_at)}
          </span>
        </p>
      )}
      <Trouble error={make.error} />
    </div>
  );
}

function DeviceRow({ device }: { device: Device }) {
  const revoke = useChange(
    () =>
      data(
        api.POST("/api/devices/{device_id}/revoke", { params: { path: { device_id: device.id } } }),
      ),
    [["devices"]],
  );
  return (
    <li className={device.revoked_at ? "undone" : ""}>
      <h2>{device.name}</h2>
      <p>
        {device.role}: {MAY[device.role]}
      </p>
      <div>
        <p className="soft">
          Paired {moment(device.paired_at)}, seen {moment(device.seen_at)}
          {device.revoked_at && `, let in no more since ${moment(device.revoked_at)}`}
        </p>
        {!device.revoked_at && (
          <Remove label="let it in no more" run={() => revoke.mutate(undefined)} />
        )}
        <Trouble error={revoke.error} />
      </div>
    </li>
  );
}
