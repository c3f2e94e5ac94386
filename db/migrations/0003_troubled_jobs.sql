-- Work that failed is asked for with its circulation; there is little of it among all that was ever done.
create index job_troubled on job (organization, (data ->> 'circulation')) where error is not null;
-- The draft page asks which pages of its versions are still waited for.
create index job_render on job (organization, (data ->> 'change')) where kind = 'render' and state <> 'done';
