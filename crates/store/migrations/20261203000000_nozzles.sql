-- Nozzles that the company keeps for all its jobs, and the ids of those on its trucks.
create table nozzles (
    company_id bigint not null references companies on delete cascade,
    nozzle_id text not null check (nozzle_id <> '' and length(nozzle_id) <= 64),
    body jsonb not null,
    primary key (company_id, nozzle_id)
);
alter table companies add column truck jsonb not null default '[]';
