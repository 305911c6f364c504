CREATE TABLE centring (                    -- where a stick rested while its trims were turned
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  take_id INTEGER NOT NULL REFERENCES take (id),  -- by whose source it was watched
  kind TEXT NOT NULL,                      -- the remedy by its code
  at TEXT NOT NULL,
  body TEXT NOT NULL,                      -- JSON: before, after, turns, seconds, every reading
  trims TEXT,                              -- JSON: how the stand-in's were left
  work_id INTEGER REFERENCES work (id)     -- what it was put on record with
) STRICT;
CREATE INDEX centring_by_job ON centring (job_id, id);
