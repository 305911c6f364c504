import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import type { Problem } from "../api/problem";
import { pairingQuery } from "../api/queries";
import { Loading, Page, Trouble } from "../app/parts";
import { MAY } from "./DevicesPage";
import "./shop.css";

/** What another machine sees until it has paired. */
export function Component() {
  const { data: pairing, isLoading } = useQuery(pairingQuery);
  const { register, handleSubmit, watch } = useForm({ defaultValues: { code: "", name: "" } });
  const pair = useMutation<Schemas["PairedDevice"], Problem, { code: string; name: string }>({
    mutationFn: (body) => data(api.POST("/api/pairing", { body })),
    onSuccess: () => window.location.assign("/"),
  });
  if (isLoading) return <Loading what="the bench" />;
  if (pairing?.here || pairing?.device) {
    return (
      <main className="alone">
        <Page
          title={pairing.here ? "This is the bench’s own machine." : "This machine has paired."}
        >
          {pairing.device && (
            <p>
              As {pairing.device.role}: {MAY[pairing.device.role]}.
            </p>
          )}
          <Button href="/" variant="contained">
            To the bench
          </Button>
        </Page>
      </main>
    );
  }
  return (
    <main className="alone">
      <Page title="Pair with the bench">
        <p className="lead">
          Have a code shown at the bench, under Devices, and type it in here. It is good once, for
          ten minutes.
        </p>
        <form className="form" onSubmit={handleSubmit((typed) => pair.mutate(typed))}>
          <TextField
            label="Code"
            autoFocus
            autoComplete="off"
            {...register("code")}
            slotProps={{ htmlInput: { maxLength: 40, className: "figures" } }}
          />
          <TextField
            label="What this machine is called"
            placeholder="such as front desk tablet"
            {...register("name")}
            slotProps={{ htmlInput: { maxLength: 80 } }}
          />
          <Trouble error={pair.error} />
          <p className="actions">
            <Button
              type="submit"
              variant="contained"
              disabled={!watch("code").trim() || pair.isPending}
            >
              Pair
            </Button>
          </p>
        </form>
      </Page>
    </main>
  );
}
