-- What is left over from jobs: the company's, offered first to the next.
create table stock (
    company_id bigint not null references companies (id),
    -- As takeoffs name parts, with the length that pipe is sold in.
    part text not null,
    text text not null,
    quantity numeric(14, 3) not null check (quantity > 0),
    primary key (company_id, part)
);

-- What of a job's list has come, and from where: beside the plan, which a delivery does not change.
create table job_goods (
    job_id bigint not null references jobs (id) on delete cascade,
    part text not null,
    from_stock numeric(14, 3) not null default 0 check (from_stock >= 0),
    arrived numeric(14, 3) not null default 0 check (arrived >= 0),
    to_stock numeric(14, 3) not null default 0 check (to_stock >= 0),
    primary key (job_id, part)
);
