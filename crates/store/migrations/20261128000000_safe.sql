-- A drawing that waits is kept as it was read, no longer as the file that came.
delete from uploads;

-- A form that is sent twice makes one job, one version of a quote.
alter table jobs add column key text;
create unique index jobs_by_key on jobs (company_id, key) where key is not null;
alter table quotes add column key text;
create unique index quotes_by_key on quotes (job_id, key) where key is not null;

-- What the list shows of a job, so that it opens none; as of an edit.
alter table jobs add column summary jsonb;
alter table jobs add column summary_seq bigint;

-- The version of the format that a snapshot is written in.
alter table snapshots add column format smallint not null default 1;
