-- +goose Up
-- A claim holds for a lease, which its worker renews: claim is a number that grows with each claim of a job, tries how often
-- it was taken up and not given back, done and trials how far its worker has come.
ALTER TABLE job ADD COLUMN tries INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job ADD COLUMN worker TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN lease_until TIMESTAMP;
ALTER TABLE job ADD COLUMN done INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job ADD COLUMN trials INTEGER NOT NULL DEFAULT 0;
UPDATE job SET tries = claim;
UPDATE job SET state = 'queued' WHERE state = 'running';
ALTER TABLE job DROP COLUMN epoch;
DROP TABLE epoch;
