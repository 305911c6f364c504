CREATE TABLE source_check (                -- what a source is like, the newest of each
  model_id TEXT NOT NULL REFERENCES model (id),
  source_kind TEXT NOT NULL,
  source_name TEXT NOT NULL,
  stick TEXT NOT NULL,
  at TEXT NOT NULL,
  body TEXT NOT NULL,                      -- JSON: core/source_check.SourceCheck
  PRIMARY KEY (model_id, source_kind, source_name)
) STRICT, WITHOUT ROWID;
