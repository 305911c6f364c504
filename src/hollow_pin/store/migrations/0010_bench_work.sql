-- What is put down of work by its fields, what dries or cools, how long it took, and how a shell is
-- opened and shut.
ALTER TABLE work ADD COLUMN details TEXT NOT NULL DEFAULT '{}';  -- JSON object: core/work_fields

CREATE TABLE timer (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  kind TEXT NOT NULL,                      -- core/timers
  label TEXT NOT NULL,
  minutes REAL NOT NULL CHECK (minutes > 0),
  started_at TEXT NOT NULL,
  ends_at TEXT NOT NULL,
  stopped_at TEXT,                         -- before its time
  because TEXT NOT NULL DEFAULT '',
  rung_at TEXT                             -- when it was heard
) STRICT;
CREATE INDEX timer_unheard ON timer (ends_at) WHERE stopped_at IS NULL AND rung_at IS NULL;
CREATE INDEX timer_by_job ON timer (job_id, id);

CREATE TABLE work_clock (                  -- how long somebody worked on a job, with pauses
  job_id INTEGER PRIMARY KEY REFERENCES job (id),
  seconds REAL NOT NULL,
  running_since TEXT
) STRICT;

CREATE TABLE teardown (                    -- how a model is opened; every version stays
  model_id TEXT NOT NULL REFERENCES model (id),
  revision INTEGER NOT NULL,
  body TEXT NOT NULL,                      -- JSON: core/teardown.Teardown
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (model_id, revision)
) STRICT, WITHOUT ROWID;

CREATE TABLE opening (                     -- a shell that was opened, until it is shut
  id INTEGER PRIMARY KEY,
  seq INTEGER NOT NULL,                    -- its place among takes, work and studies
  job_id INTEGER NOT NULL REFERENCES job (id),
  sheet TEXT NOT NULL,                     -- JSON: as it stood when it was opened, and what was added
  opened_at TEXT NOT NULL,
  shut_at TEXT,
  checked INTEGER NOT NULL DEFAULT 0,      -- whether the open-shell check said to close it
  because TEXT NOT NULL DEFAULT '',        -- why it was shut all the same
  undone_at TEXT
) STRICT;
CREATE UNIQUE INDEX one_opening ON opening (job_id) WHERE shut_at IS NULL AND undone_at IS NULL;
CREATE INDEX opening_by_job ON opening (job_id, id);

CREATE TABLE opening_tick (
  id INTEGER PRIMARY KEY,
  opening_id INTEGER NOT NULL REFERENCES opening (id),
  way TEXT NOT NULL CHECK (way IN ('out', 'back', 'final')),
  step TEXT NOT NULL,
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  undone_at TEXT
) STRICT;
CREATE UNIQUE INDEX ticked_once ON opening_tick (opening_id, way, step) WHERE undone_at IS NULL;

ALTER TABLE ledger ADD COLUMN timer_id INTEGER REFERENCES timer (id);
ALTER TABLE ledger ADD COLUMN opening_id INTEGER REFERENCES opening (id);
