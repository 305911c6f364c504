CREATE TABLE inspection (                  -- a lot that came, looked at before it is used
  id INTEGER PRIMARY KEY,
  part_id INTEGER NOT NULL REFERENCES part (id),
  lot TEXT NOT NULL,
  plan TEXT NOT NULL,                      -- JSON: core/sampling.SamplingPlan
  begun_at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  ended_at TEXT,
  ending TEXT,                             -- core/inspection.Ending
  reason TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX inspection_by_part ON inspection (part_id, id);
CREATE UNIQUE INDEX inspected_once ON inspection (part_id, lot) WHERE ended_at IS NULL;

CREATE TABLE jig_reading (                 -- a module measured on the jig, for an inspection
  id INTEGER PRIMARY KEY,
  inspection_id INTEGER NOT NULL REFERENCES inspection (id),
  at TEXT NOT NULL,
  body TEXT NOT NULL                       -- JSON: core/inspection.OnJig
) STRICT;

CREATE TABLE inspected (                   -- one of the lot
  id INTEGER PRIMARY KEY,
  inspection_id INTEGER NOT NULL REFERENCES inspection (id),
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  body TEXT NOT NULL,                      -- JSON: core/inspection.Looked
  undone_at TEXT
) STRICT;
CREATE INDEX inspected_by_inspection ON inspected (inspection_id, id);

CREATE TABLE donor (                       -- a controller beyond repair, kept for its parts
  controller_id INTEGER PRIMARY KEY REFERENCES controller (id),
  since TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT ''
) STRICT;
