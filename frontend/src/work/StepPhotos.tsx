import Button from "@mui/material/Button";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Trouble } from "../app/parts";
import { Camera } from "../takein/Camera";
import { FileChoice, PhotoDialog, Refused, Thumb, useAddPhotos } from "../takein/Photos";

type Photo = Schemas["Photo"];
type Step = Schemas["SheetStep"];

/** How a step looked before it came out: photographed now, or on the model's sheet. */
export function StepPhotos({
  jobId,
  step,
  photos,
  add,
}: {
  jobId: number;
  step: Step;
  photos: readonly Photo[];
  add: boolean;
}) {
  const [shown, setShown] = useState<Photo | null>(null);
  const [camera, setCamera] = useState(false);
  const keep = useAddPhotos(jobId, { caption: step.words, step: step.id });
  const own = photos.filter((p) => p.step === step.id);
  const hasModelPhoto = step.photo && own.length === 0;
  return (
    <div className="step-photos">
      {(hasModelPhoto || own.length > 0) && (
        <ul className="thumbs" aria-label="How it looked">
          {hasModelPhoto && (
            <li>
              <a
                className="thumb"
                href={`/api/photos/${step.photo}`}
                target="_blank"
                rel="noreferrer"
              >
                <img src={`/api/photos/${step.photo}/thumb`} alt={`On the sheet: ${step.words}`} />
              </a>
            </li>
          )}
          {own.map((p) => (
            <li key={p.id}>
              <Thumb photo={p} open={() => setShown(p)} />
            </li>
          ))}
        </ul>
      )}
      {add && (
        <p className="photo-add">
          <FileChoice
            label="Photo of this step"
            disabled={keep.isPending}
            chosen={(files) => keep.mutate(files)}
          />
          <Button size="small" onClick={() => setCamera(true)} disabled={keep.isPending}>
            Camera
          </Button>
        </p>
      )}
      <Refused said={keep.data?.refused ?? []} />
      <Trouble error={keep.error} />
      <PhotoDialog photo={shown} onClose={() => setShown(null)} />
      {camera && (
        <Camera
          taken={(body) => keep.mutate([{ name: "camera.jpg", body }])}
          onClose={() => setCamera(false)}
        />
      )}
    </div>
  );
}
