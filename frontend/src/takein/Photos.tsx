import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import type { Problem } from "../api/problem";
import { useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { moment } from "../app/format";
import { Trouble, Words } from "../app/parts";
import { Camera } from "./Camera";
import "./takein.css";

type Photo = Schemas["Photo"];

export function photoName(photo: Photo): string {
  return photo.caption
    ? `Photo: ${photo.caption.slice(0, 200)}`
    : `Photo, ${moment(photo.taken_at)}`;
}

/** A photo in small that opens whole. */
export function Thumb({ photo, open }: { photo: Photo; open: () => void }) {
  return (
    <button type="button" className="thumb" onClick={open} title={photo.caption.slice(0, 200)}>
      <img src={`/api/photos/${photo.sha256}/thumb`} alt={photoName(photo)} loading="lazy" />
    </button>
  );
}

export function PhotoDialog({ photo, onClose }: { photo: Photo | null; onClose: () => void }) {
  return (
    <Dialog
      open={photo !== null}
      onClose={onClose}
      maxWidth="lg"
      slotProps={{ paper: { "aria-label": "Photo" } }}
    >
      {photo && (
        <DialogContent>
          <img
            className="photo-whole"
            src={`/api/photos/${photo.sha256}`}
            alt={photoName(photo)}
            width={photo.width}
            height={photo.height}
          />
          <p>
            <Words text={photo.caption} />{" "}
            <span className="soft">
              {moment(photo.taken_at)} · {photo.width} × {photo.height}
            </span>
          </p>
        </DialogContent>
      )}
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** Keeps pictures with a job, one after the other; gives back what was said of those that were refused.
 * step: of which step of its open shell, if of one. */
export function useAddPhotos(jobId: number, about: { caption: string; step?: string }) {
  return useChange(async (files: { name: string; body: Blob }[]) => {
    const refused: string[] = [];
    for (const { name, body } of files) {
      const form = new FormData();
      form.append("file", body, name);
      form.append("caption", about.caption);
      if (about.step) form.append("step", about.step);
      await data(
        api.POST("/api/jobs/{job_id}/photos", {
          params: { path: { job_id: jobId } },
          body: form as never,
          bodySerializer: (b: unknown) => b as FormData,
        }),
      ).catch((problem: Problem) => refused.push(`${name}: ${problem.message}`));
    }
    return { refused, kept: files.length - refused.length };
  }, ofJob(jobId));
}

/** Pictures from files. */
export function FileChoice({
  label,
  disabled,
  chosen,
}: {
  label: string;
  disabled: boolean;
  chosen: (files: { name: string; body: Blob }[]) => void;
}) {
  return (
    <label className="file-choice">
      {label}
      <input
        type="file"
        accept="image/jpeg,image/png,image/webp"
        multiple
        disabled={disabled}
        onChange={(e) => {
          const files = Array.from(e.target.files ?? []);
          e.target.value = "";
          if (files.length) chosen(files.map((f) => ({ name: f.name, body: f })));
        }}
      />
    </label>
  );
}

export function Refused({ said }: { said: readonly string[] }) {
  return said.map((words) => (
    <p key={words} className="trouble" role="alert">
      {words}
    </p>
  ));
}

/** The photos of a job, and how more get in: from files, or by a camera. */
export function Photos({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const [shown, setShown] = useState<Photo | null>(null);
  const [camera, setCamera] = useState(false);
  const [caption, setCaption] = useState("");
  const add = useAddPhotos(job.id, { caption });
  const keep = (files: { name: string; body: Blob }[]) =>
    add.mutate(files, { onSuccess: ({ kept }) => kept > 0 && setCaption("") });
  return (
    <section className="block photos" aria-label="Photos">
      <h2>Photos</h2>
      {view.photos.length > 0 && (
        <ul className="thumbs">
          {view.photos.map((p) => (
            <li key={p.id}>
              <Thumb photo={p} open={() => setShown(p)} />
            </li>
          ))}
        </ul>
      )}
      {job.closed_at === null && (
        <div className="photo-add">
          <TextField
            label="What it shows"
            value={caption}
            onChange={(e) => setCaption(e.target.value)}
          />
          <FileChoice label="Files" disabled={add.isPending} chosen={keep} />
          <Button onClick={() => setCamera(true)} disabled={add.isPending}>
            Camera
          </Button>
          {add.isPending && (
            <span className="soft" role="status">
              Making it anew…
            </span>
          )}
        </div>
      )}
      <Refused said={add.data?.refused ?? []} />
      <Trouble error={add.error} />
      <PhotoDialog photo={shown} onClose={() => setShown(null)} />
      {camera && (
        <Camera
          taken={(body) => keep([{ name: "camera.jpg", body }])}
          onClose={() => setCamera(false)}
        />
      )}
    </section>
  );
}
