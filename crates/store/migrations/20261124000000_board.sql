-- A gesture is sent again when its answer was lost: its key makes sure that it is done once.
alter table edits add column key text;
create unique index edits_by_key on edits (job_id, key) where key is not null;

-- Scans and photos that lie beneath a drawing; named by what they hold.
create table pictures (
    job_id bigint not null references jobs (id) on delete cascade,
    name text not null,
    kind text not null,
    bytes bytea not null,
    at timestamptz not null default now(),
    primary key (job_id, name)
);

-- A drawing that was uploaded and waits to be told what its layers are.
create table uploads (
    id bigint generated always as identity primary key,
    job_id bigint not null references jobs (id) on delete cascade,
    name text not null,
    bytes bytea not null,
    at timestamptz not null default now()
);
create index uploads_by_job on uploads (job_id);
