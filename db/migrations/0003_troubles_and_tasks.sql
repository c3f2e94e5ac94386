-- Work that failed is asked for with its circulation; there is little of it among all that was ever done.
create index job_troubled on job (organization, (data ->> 'circulation')) where error is not null;
-- Whom a task has to do with; written with each task from now on.
alter table task add column about text;
update task set about = case when task.person = circulation.controller then circulation.author else circulation.controller end
  from circulation where circulation.organization = task.organization and circulation.id = task.circulation;
alter table task alter column about set not null;
-- The draft page asks which pages of its versions are still waited for.
create index job_render on job (organization, (data ->> 'change')) where kind = 'render' and state <> 'done';
