import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { modelsQuery, useChange } from "../api/queries";
import { ofModels } from "../api/touched";
import { Loading, NotShown, Page } from "../app/parts";
import { BLANK, ModelForm } from "./ModelForm";
import { tidySheet } from "./SheetFields";

/** One model, to be changed; or a new one. */
export function Component() {
  const { modelId } = useParams();
  const navigate = useNavigate();
  const { data: models, error } = lasting(useQuery(modelsQuery));
  const known = models?.find((m) => m.id === modelId);
  const keep = useChange(
    (body: Schemas["ModelBody"]) =>
      known
        ? data(
            api.PUT("/api/models/{model_id}", { params: { path: { model_id: known.id } }, body }),
          )
        : data(api.POST("/api/models", { body })),
    ofModels,
  );
  if (error) return <NotShown title="This model cannot be shown." error={error} />;
  if (!models) return <Loading what="the model" />;
  if (!known && modelId !== "new") return <Page title="There is no such model." />;
  const { id: _, ...kept } = known ?? { id: "", ...BLANK };
  const body: Schemas["ModelBody"] = {
    ...kept,
    sheet: tidySheet(kept.sheet, kept.sticks),
  };
  return (
    <Page title={known ? known.name : "A new model"}>
      <ModelForm
        key={known?.id ?? "new"}
        model={body}
        keep={(changed) => keep.mutate(changed, { onSuccess: () => navigate("/models") })}
        busy={keep.isPending}
        error={keep.error}
      />
    </Page>
  );
}
