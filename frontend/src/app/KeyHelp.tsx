import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { usePrintedKeys } from "./keys";

/** Every key of the present screen. */
export function KeyHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  const keys = usePrintedKeys();
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys on this screen</DialogTitle>
      <DialogContent>
        <dl className="keys">
          {keys.map((k) => (
            <div key={k.key}>
              <dt>
                <kbd>{k.shown}</kbd>
              </dt>
              <dd>{k.does}</dd>
            </div>
          ))}
        </dl>
        <p className="soft">Tab moves between controls, Enter presses them.</p>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
