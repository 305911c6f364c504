import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { api, data, type Problem, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { moment } from "../app/format";
import { Trouble, Words } from "../app/parts";
import { Camera } from "./Camera";

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

/** The photos of a job, and how more get in: from files, or by a camera. */
export function Photos({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const [shown, setShown] = useState<Photo | null>(null);
  const [camera, setCamera] = useState(false);
  const [caption, setCaption] = useState("");
  const [refused, setRefused] = useState<string[]>([]);
  const add = useChange(async (files: { name: string; body: Blob }[]) => {
    const wrong: string[] = [];
    for (const { name, body } of files) {
      const form = new FormData();
      form.append("file", body, name);
      form.append("caption", caption);
      await data(
        api.POST("/api/jobs/{job_id}/photos", {
          params: { path: { job_id: job.id } },
          body: form as never,
          bodySerializer: (b: unknown) => b as FormData,
        }),
      ).catch((problem: Problem) => wrong.push(`${name}: ${problem.message}`));
    }
    setRefused(wrong);
    if (wrong.length < files.length) setCaption("");
  });
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
          <label className="file-choice">
            Files
            <input
              type="file"
              accept="image/jpeg,image/png,image/webp"
              multiple
              disabled={add.isPending}
              onChange={(e) => {
                const files = Array.from(e.target.files ?? []);
                e.target.value = "";
                if (files.length) add.mutate(files.map((f) => ({ name: f.name, body: f })));
              }}
            />
          </label>
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
      {refused.map((said) => (
        <p key={said} className="trouble" role="alert">
          {said}
        </p>
      ))}
      <Trouble error={add.error} />
      <PhotoDialog photo={shown} onClose={() => setShown(null)} />
      {camera && (
        <Camera
          taken={(body) => add.mutate([{ name: "camera.jpg", body }])}
          onClose={() => setCamera(false)}
        />
      )}
    </section>
  );
}
