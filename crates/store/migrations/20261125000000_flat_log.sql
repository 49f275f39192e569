-- The cost of an edit must not grow with the log. Undo and redo are two stacks threaded through the
-- log: a job names the top of each, an entry the one below it. What an edit touches is kept as the
-- newest edit of each subject, so that a conflict is looked up and not searched for.
alter table jobs add column undo_top bigint;
alter table jobs add column redo_top bigint;
alter table edits add column below bigint;

-- Who made an edit, and the version of the format that it is written in.
alter table edits add column author text not null default 'this company';
alter table edits add column format smallint not null default 1;

create table touched (
    job_id bigint not null references jobs (id) on delete cascade,
    subject text not null,
    seq bigint not null,
    primary key (job_id, subject)
);

-- Threads the stacks through logs that were written before.
do $$
declare
    job record;
    entry record;
    done bigint[];
    undone bigint[];
begin
    for job in select id from jobs loop
        done := '{}';
        undone := '{}';
        for entry in select seq, kind from edits where job_id = job.id order by seq loop
            if entry.kind = 'undo' then
                done := done[1:array_length(done, 1) - 1];
                update edits set below = undone[array_length(undone, 1)]
                    where job_id = job.id and seq = entry.seq;
                undone := undone || entry.seq;
            else
                if entry.kind = 'redo' then
                    undone := undone[1:array_length(undone, 1) - 1];
                else
                    undone := '{}';
                end if;
                update edits set below = done[array_length(done, 1)]
                    where job_id = job.id and seq = entry.seq;
                done := done || entry.seq;
            end if;
        end loop;
        update jobs set undo_top = done[array_length(done, 1)], redo_top = undone[array_length(undone, 1)]
            where id = job.id;
    end loop;
end $$;
