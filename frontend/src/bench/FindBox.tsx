import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useKeys } from "../app/keys";
import { scannedJob } from "./NewJob";
import "./bench.css";

/** Finds jobs by any word; a scanned label opens its job. */
export function FindBox() {
  const navigate = useNavigate();
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState("");
  useKeys([{ key: "f", shown: "F", does: "find", run: () => input.current?.focus() }]);
  return (
    <form
      className="find-box"
      onSubmit={(e) => {
        e.preventDefault();
        const job = scannedJob(text);
        setText("");
        navigate(job === null ? `/find?text=${encodeURIComponent(text.trim())}` : `/jobs/${job}`);
      }}
    >
      <input
        ref={input}
        type="search"
        aria-label="Find a job"
        placeholder="Find a tag or a word"
        maxLength={200}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
      />
    </form>
  );
}
