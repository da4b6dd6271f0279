-- A decision to run on can be withdrawn, or changed, which withdraws it and decides anew.
ALTER TABLE risk_decisions ADD COLUMN withdrawn_at INTEGER;
ALTER TABLE risk_decisions ADD COLUMN withdrawn_by INTEGER REFERENCES people;
ALTER TABLE risk_decisions ADD COLUMN withdrawn_reason TEXT;
CREATE INDEX risk_decisions_until ON risk_decisions (until) WHERE answer = 'run_on';
