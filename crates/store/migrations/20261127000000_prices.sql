-- The company's price book: not part of any job.
create table price_books (
    company_id bigint primary key references companies (id),
    currency text not null default '',
    -- Grows with each change, so that pages know a book that they have shown.
    version bigint not null default 1
);

create table suppliers (
    company_id bigint not null references companies (id),
    name text not null,
    carriage numeric(14, 4) not null default 0,
    free_from numeric(14, 4),
    primary key (company_id, name)
);

create table prices (
    company_id bigint not null references companies (id),
    number text not null,
    supplier text not null,
    text text not null,
    price numeric(16, 4) not null check (price >= 0),
    pack int not null check (pack > 0),
    minimum int not null check (minimum > 0),
    dated date,
    found tsvector generated always as (to_tsvector('simple', number || ' ' || text || ' ' || supplier)) stored,
    primary key (company_id, number, supplier)
);
create index prices_found on prices using gin (found);
create index prices_in_order on prices (company_id, text, number, supplier);

-- Own numbers of the parts that plans are counted in: said once, for all jobs.
create table part_numbers (
    company_id bigint not null references companies (id),
    part text not null,
    number text not null,
    primary key (company_id, part)
);

-- Quotes as they were made: whole, so that prices of later days do not change them.
create table quotes (
    id bigint generated always as identity primary key,
    company_id bigint not null references companies (id),
    job_id bigint not null references jobs (id) on delete cascade,
    version int not null,
    -- The edit of the job that it was made at.
    seq bigint not null,
    quote jsonb not null,
    note text not null default '',
    made_at timestamptz not null default now(),
    accepted_at timestamptz,
    unique (job_id, version)
);

-- Links that only show: the token itself is kept nowhere.
create table shares (
    hash bytea primary key,
    company_id bigint not null references companies (id),
    job_id bigint not null references jobs (id) on delete cascade,
    what text not null check (what in ('quote', 'plan')),
    quote_id bigint references quotes (id) on delete cascade,
    until date not null,
    made_at timestamptz not null default now(),
    ended_at timestamptz
);
create index shares_by_job on shares (job_id);
