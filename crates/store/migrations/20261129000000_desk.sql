-- Where a job stands: on the desk, put away, kept as a template, or deleted and resting.
alter table jobs add column shelf text not null default 'desk'
    check (shelf in ('desk', 'archive', 'template', 'deleted'));
-- Where it stood before it was deleted, and since when it rests.
alter table jobs add column shelf_before text not null default 'desk';
alter table jobs add column deleted_at timestamptz;
drop index jobs_by_company;
create index jobs_by_company on jobs (company_id, shelf, updated_at desc, id desc);

-- The company's house rules, which new jobs begin with; none: those that come with the program.
alter table companies add column rules jsonb;
