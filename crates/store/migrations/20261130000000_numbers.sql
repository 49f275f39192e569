-- A number like K-77 is found by its letters and by its digits: what is no letter or digit parts words, as it does in
-- what is searched for. (By itself ‘-77’ is read as a number below zero, which nobody looks for.)
drop index prices_found;
alter table prices drop column found;
alter table prices add column found tsvector generated always as
    (to_tsvector('simple', regexp_replace(number || ' ' || text || ' ' || supplier, '[^[:alnum:]]+', ' ', 'g'))) stored;
create index prices_found on prices using gin (found);
