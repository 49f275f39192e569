-- Bundles that are sold under one number: what is in them, by the company's own numbers, as [number, how many].
create table kits (
    company_id bigint not null references companies (id),
    number text not null,
    text text not null,
    parts jsonb not null,
    primary key (company_id, number)
);
