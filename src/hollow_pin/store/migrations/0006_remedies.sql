-- Work of any remedy, on either stick and axis; decisions; what is derived carries the version that
-- made it.
CREATE TABLE work_new (
  id INTEGER PRIMARY KEY,
  seq INTEGER NOT NULL,                    -- its place among takes, work and studies
  job_id INTEGER NOT NULL REFERENCES job (id),
  stick TEXT NOT NULL,
  axis TEXT NOT NULL DEFAULT '',           -- x, y, or empty where it is not one axis's
  kind TEXT NOT NULL,                      -- a remedy by its code
  module TEXT,                             -- the kind that went in
  lot TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  cautions TEXT NOT NULL DEFAULT '[]',     -- JSON list of the cautions acknowledged
  stand_in_before TEXT,                    -- the simulated stick it was done to
  done_at TEXT NOT NULL,
  undone_at TEXT
) STRICT;
INSERT INTO work_new (id, seq, job_id, stick, kind, module, lot, note, cautions, stand_in_before,
  done_at, undone_at)
SELECT id, seq, job_id, stick, kind, module, lot, note, cautions, stand_in_before, done_at, undone_at
FROM work;
DROP TABLE work;
ALTER TABLE work_new RENAME TO work;
CREATE INDEX work_by_job ON work (job_id, id);

CREATE TABLE decision (                    -- what was decided on, as it stood
  id INTEGER PRIMARY KEY,
  seq INTEGER NOT NULL,
  job_id INTEGER NOT NULL REFERENCES job (id),
  take_id INTEGER NOT NULL REFERENCES take (id),
  chosen TEXT NOT NULL,                    -- a remedy by its code
  advised TEXT NOT NULL,                   -- the one that was first among those offered
  reason TEXT NOT NULL DEFAULT '',
  stood TEXT NOT NULL,                     -- JSON object: causes, options and money as they were shown
  decided_at TEXT NOT NULL,
  undone_at TEXT
) STRICT;
CREATE INDEX decision_by_job ON decision (job_id, id);

CREATE TABLE ledger_new (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',           -- bench role
  kind TEXT NOT NULL,
  text TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 1,
  undone_at TEXT,
  take_id INTEGER REFERENCES take (id),
  work_id INTEGER REFERENCES work (id),
  photo_id INTEGER REFERENCES photo (id),
  check_id INTEGER REFERENCES function_check (id),
  decision_id INTEGER REFERENCES decision (id)
) STRICT;
INSERT INTO ledger_new (id, job_id, at, role, kind, text, revision, undone_at, take_id, work_id,
  photo_id, check_id)
SELECT id, job_id, at, role, kind, text, revision, undone_at, take_id, work_id, photo_id, check_id
FROM ledger;
DROP TABLE ledger;
ALTER TABLE ledger_new RENAME TO ledger;
CREATE INDEX ledger_by_job ON ledger (job_id, id);

CREATE TABLE setting (                     -- what the shop has set, by name
  name TEXT PRIMARY KEY,
  body TEXT NOT NULL                       -- JSON
) STRICT;

ALTER TABLE study ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
ALTER TABLE function_check ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
