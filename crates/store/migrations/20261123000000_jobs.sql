-- A job is the fold of its edits. What a person did is appended and never changed; snapshots only
-- save folding from the first day. Every row belongs to a company from the start, so that accounts
-- can come without a rewrite.
create table companies (
    id bigint generated always as identity primary key,
    name text not null
);
insert into companies (name) values ('This company');

create table jobs (
    id bigint generated always as identity primary key,
    company_id bigint not null references companies (id),
    name text not null,
    place text not null,
    -- Number of the newest edit; 0 before the first.
    seq bigint not null default 0,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create index jobs_by_company on jobs (company_id, updated_at desc, id desc);

create table edits (
    job_id bigint not null references jobs (id) on delete cascade,
    seq bigint not null,
    kind text not null check (kind in ('do', 'undo', 'redo')),
    edit jsonb not null,
    inverse jsonb not null,
    described text not null,
    at timestamptz not null default now(),
    primary key (job_id, seq)
);

create table snapshots (
    job_id bigint not null references jobs (id) on delete cascade,
    seq bigint not null,
    plan jsonb not null,
    primary key (job_id, seq)
);

-- What has been done once to this database, e.g. loading the demo jobs.
create table done_once (
    what text primary key,
    at timestamptz not null default now()
);
