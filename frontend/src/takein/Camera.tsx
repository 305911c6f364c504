import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import { useEffect, useRef, useState } from "react";
import "./takein.css";

/** The machine's own camera, looked through until it is closed. */
export function Camera({ taken, onClose }: { taken: (body: Blob) => void; onClose: () => void }) {
  const [stream, setStream] = useState<MediaStream | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [count, setCount] = useState(0);
  const video = useRef<HTMLVideoElement>(null);
  useEffect(() => {
    let over = false;
    let opened: MediaStream | null = null;
    const ask = navigator.mediaDevices?.getUserMedia({
      video: { width: { ideal: 2048 }, facingMode: "environment" },
    });
    if (!ask) setWrong("This browser has no way to a camera here. Add a file instead.");
    ask
      ?.then((found) => {
        opened = found;
        if (over) for (const track of found.getTracks()) track.stop();
        else setStream(found);
      })
      .catch(() => setWrong("No camera answers. Plug one in, or allow it; or add a file instead."));
    return () => {
      over = true;
      for (const track of opened?.getTracks() ?? []) track.stop();
    };
  }, []);
  useEffect(() => {
    if (video.current) video.current.srcObject = stream;
  }, [stream]);
  const shoot = () => {
    const from = video.current;
    if (!from?.videoWidth) return;
    const canvas = document.createElement("canvas");
    canvas.width = from.videoWidth;
    canvas.height = from.videoHeight;
    canvas.getContext("2d")?.drawImage(from, 0, 0);
    canvas.toBlob(
      (body) => {
        if (!body) return;
        taken(body);
        setCount((n) => n + 1);
      },
      "image/jpeg",
      0.92,
    );
  };
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth="md"
      fullWidth
      slotProps={{ paper: { "aria-label": "Camera" } }}
    >
      <DialogContent>
        {wrong ? (
          <p className="trouble" role="alert">
            {wrong}
          </p>
        ) : (
          <video ref={video} className="camera" autoPlay playsInline muted aria-label="Camera" />
        )}
        <p className="soft" role="status">
          {count > 0 && `${count} taken.`}
        </p>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={shoot} disabled={!stream}>
          Take the photo
        </Button>
        <Button onClick={onClose}>Done</Button>
      </DialogActions>
    </Dialog>
  );
}
