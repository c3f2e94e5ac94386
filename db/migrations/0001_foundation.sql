-- The ground everything stands on. The owner migrates; the application and the worker read and write under
-- row-level security that is forced, so that even the owner sees no organization but the one that is set.

create table installation (
  singleton boolean primary key default true check (singleton),
  mode text not null check (mode in ('demo', 'real')),
  created timestamptz not null default now()
);

create function refuse_change() returns trigger language plpgsql as $$
begin
  raise exception 'this row is never changed';
end $$;
create trigger installation_stays before update or delete on installation for each row execute function refuse_change();

-- The demo's clock may be moved; a real installation's may not.
create table clock (
  singleton boolean primary key default true check (singleton),
  forward_ms bigint not null check (forward_ms >= 0)
);
create function clock_in_demo_only() returns trigger language plpgsql as $$
begin
  if (select mode from installation) is distinct from 'demo' then
    raise exception 'the clock of a real installation is never moved';
  end if;
  return new;
end $$;
create trigger clock_guard before insert or update on clock for each row execute function clock_in_demo_only();

-- The present of this installation, in whole milliseconds. In the procedural language, whose plans are kept: a function
-- of plain SQL is planned again at every call.
create function avenda_now() returns bigint language plpgsql stable as $$
begin
  return (extract(epoch from clock_timestamp()) * 1000)::bigint + coalesce((select forward_ms from clock), 0);
end $$;

create extension if not exists pg_trgm;
create extension if not exists btree_gin;

create table organization (
  id uuid primary key
);

-- Which organizations know an address: only hashes, so that signing in can begin before an organization is set.
create table sign_in_address (
  address text not null,
  organization uuid not null references organization,
  primary key (address, organization)
);

-- How often something was tried (sign-ins, codes), by a hashed key, in fixed windows.
create table attempt (
  key text not null,
  since bigint not null,
  count integer not null,
  primary key (key, since)
);

create table profile (
  organization uuid primary key references organization,
  name text not null,
  zone text not null,
  prefix text not null,
  -- What an administrator has said of the first steps: the document types are right, the steps need not be shown.
  types_confirmed boolean not null default false,
  steps_hidden boolean not null default false,
  -- Rules that an administrator has turned on, by name.
  rules text[] not null default '{}'
);

-- Working calendars: seven days of hours in minutes from Monday on, and all-day holidays by date.
create table calendar (
  organization uuid not null references organization,
  id text not null,
  name text not null,
  week jsonb not null,
  holidays jsonb not null default '[]',
  -- By whose dates times count, and whose hours everybody keeps who has no calendar of their own.
  usual boolean not null default false,
  primary key (organization, id)
);
create unique index calendar_usual on calendar (organization) where usual;

create table unit (
  organization uuid not null references organization,
  id text not null,
  name text not null,
  lead text,
  deputy text,
  primary key (organization, id)
);

-- Groups of people, any or every member of which may be asked.
create table people_group (
  organization uuid not null references organization,
  id text not null,
  name text not null,
  members text[] not null default '{}',
  primary key (organization, id)
);
create index people_group_by_member on people_group using gin (organization, members);

-- Roles that an organization defines, and who fills each.
create table office (
  organization uuid not null references organization,
  id text not null,
  name text not null,
  person text,
  primary key (organization, id)
);

create table document_type (
  organization uuid not null references organization,
  code text not null,
  name text not null,
  scheme text not null,
  position integer not null,
  usual boolean not null default false,
  -- One that is off stays with the documents that have it, and new ones cannot be given it.
  active boolean not null default true check (active or not usual),
  -- The facts that its documents declare, and who looks after the type.
  facts jsonb not null default '[]',
  -- The details that its documents have themselves, declared as facts are.
  details jsonb not null default '[]',
  custodian text,
  -- How people are reminded who are asked about its documents; null as usual.
  reminders jsonb,
  -- Whether PDFs get a line with number, revision and page in their margin when they are submitted.
  margin_line boolean not null default false check (not (margin_line and usual)),
  primary key (organization, code)
);

create table person (
  organization uuid not null references organization,
  id text not null,
  kind text not null check (kind in ('member', 'outside')),
  name text not null,
  tile text not null,
  email text not null,
  work text not null default '',
  company text not null default '',
  zone text not null,
  unit text,
  -- Their own working calendar; the usual one where they have none.
  calendar text,
  roles text[] not null default '{}',
  password text,
  -- What the secret address of their calendar of dues is made from; null where they have none.
  feed text,
  -- The filters of lists that they have kept, in their order.
  filters jsonb not null default '[]',
  -- What they want to be told of and how, where not the usual.
  tells jsonb not null default '{}',
  state text not null check (state in ('active', 'invited', 'left')),
  created bigint not null,
  primary key (organization, id),
  unique (organization, email, kind)
);
create index person_by_unit on person (organization, unit) where unit is not null;
create index person_by_name on person (organization, kind, lower(name), id);

-- When people are away, and who covers for them. One that has begun only ever ends earlier.
create table absence (
  organization uuid not null,
  id text not null,
  person text not null,
  starts bigint not null,
  ends bigint not null check (ends >= starts),
  covers jsonb not null default '[]',
  -- Whether whoever covers has been told that it has begun.
  told boolean not null default false,
  primary key (organization, id),
  foreign key (organization, person) references person
);
create index absence_by_person on absence (organization, person, ends);
create index absence_by_end on absence (organization, ends);

-- How people were called until a moment. What it was stands in a payload, which a recorded event names as well.
create table person_past (
  organization uuid not null,
  person text not null,
  until bigint not null,
  before text not null,
  primary key (organization, person, until),
  foreign key (organization, person) references person
);

-- Addresses by which somebody chooses a password: when they were invited, or have forgotten theirs.
create table invitation (
  organization uuid not null,
  token text not null,
  person text not null,
  purpose text not null check (purpose in ('invitation', 'password')),
  expires bigint not null,
  primary key (organization, token),
  foreign key (organization, person) references person
);

create table session (
  organization uuid not null,
  token text not null,
  person text not null,
  created bigint not null,
  expires bigint not null,
  address text not null,
  primary key (organization, token),
  foreign key (organization, person) references person
);

-- The record of everything: one row an event, chained by hash, never changed.
create table event (
  organization uuid not null,
  stream text not null,
  sequence integer not null check (sequence > 0),
  type text not null,
  version smallint not null,
  at bigint not null,
  actor text not null,
  on_behalf_of text,
  data text not null,
  previous text not null,
  hash text not null,
  primary key (organization, stream, sequence)
);

-- What a person wrote, addresses and devices, beside the events and erasable without breaking their chain.
create table payload (
  organization uuid not null,
  hash text not null,
  salt text not null,
  content text,
  primary key (organization, hash)
);

-- Commands that have been answered: the same id again gets the same answer.
create table command (
  organization uuid not null,
  id text not null,
  content text not null,
  answer text not null,
  at bigint not null,
  primary key (organization, id)
);
create index command_age on command (organization, at);

-- The last number taken of each numbering scheme.
create table counter (
  organization uuid not null,
  name text not null,
  value integer not null,
  primary key (organization, name)
);

-- Files by the SHA-256 of their bytes: a list of chunks, each kept once under its own hash.
create table file (
  organization uuid not null,
  hash text not null,
  bytes bigint not null,
  media_type text not null,
  facts jsonb not null default '{}',
  chunks text[] not null,
  uploader text,
  created bigint not null,
  primary key (organization, hash)
);
create index file_by_uploader on file (organization, uploader) include (bytes) where uploader is not null;
create index file_age on file (organization, created);

create table chunk (
  organization uuid not null,
  hash text not null,
  bytes bytea not null,
  created bigint not null,
  primary key (organization, hash)
);
alter table chunk alter column bytes set storage external;

-- Who has sent which file: only they can put it into a draft.
create table upload (
  organization uuid not null,
  file text not null,
  person text not null,
  at bigint not null,
  primary key (organization, person, file)
);

-- What needs a file: a circulation, a record, a draft. A file that nothing needs is cleared away.
create table file_use (
  organization uuid not null,
  owner text not null,
  file text not null,
  primary key (organization, owner, file)
);
create index file_use_by_file on file_use (organization, file);

-- The author's working copy of a change: its documents (a text or a file each) and attachments.
create table draft (
  organization uuid not null,
  change text not null,
  record text not null,
  circulation text not null,
  author text not null,
  controller text not null,
  documents jsonb not null,
  attachments jsonb not null default '[]',
  edit integer not null default 0,
  saved bigint not null,
  primary key (organization, change)
);

create table draft_text (
  organization uuid not null,
  change text not null,
  document text not null,
  story text not null,
  primary key (organization, change, document)
);

-- Read tables: written by pure projections in the transaction of their events, and rebuilt from them.
create table circulation (
  organization uuid not null,
  id text not null,
  stream text not null generated always as ('circulation:' || id) stored,
  number text not null,
  record text not null,
  records text[] not null,
  change text not null,
  controller text not null,
  author text not null,
  batch text,
  begun_by text,
  phase text not null,
  round integer not null,
  version integer not null,
  stops integer not null,
  seats integer not null,
  decided integer not null,
  holders text[] not null,
  next_due bigint,
  created bigint not null,
  sent bigint,
  ended bigint,
  last bigint not null,
  -- Where it stands in lists: what is stopped first, then by due time, what has ended last and newest first.
  rank smallint not null,
  sort bigint not null,
  line text not null,
  -- When its forecast was made; null once something has happened since. The worker makes it.
  forecast_at bigint,
  primary key (organization, id)
);
create index circulation_unforecast on circulation (organization) where ended is null and forecast_at is null;
create index circulation_ended on circulation (organization, ended) where ended is not null;
create unique index circulation_number on circulation (organization, number);
create unique index circulation_by_stream on circulation (organization, stream);
create index circulation_by_record on circulation (organization, record);
create index circulation_listed on circulation (organization, rank, sort, id collate "C");
create index circulation_by_controller on circulation (organization, controller) where ended is null;

-- What a controller prepares before a circulation is sent: a working copy, recorded as events when it is.
create table planning (
  organization uuid not null references organization,
  circulation text not null,
  plan jsonb,
  note text,
  whole jsonb not null default '{"due": null, "closes": null}',
  facts jsonb not null default '{}',
  fields jsonb not null default '[]',
  primary key (organization, circulation)
);

-- What a circulation that has ended taught about how long things take; what was fitted from all of them; by how much
-- experience stretches forecasts. Made by the worker from events, and never the only record of anything.
create table lesson (
  organization uuid not null references organization,
  circulation text not null,
  ended bigint not null,
  past jsonb not null,
  primary key (organization, circulation)
);
create index lesson_by_time on lesson (organization, ended);

create table forecast_model (
  organization uuid not null references organization,
  fitted bigint not null,
  model jsonb not null,
  primary key (organization, fitted)
);

create table forecast_experience (
  organization uuid primary key references organization,
  tracking jsonb not null
);

-- The last forecast of each day, with what it was made from and what had changed since the last one of a day before.
create table forecast (
  organization uuid not null,
  circulation text not null,
  day text not null,
  at bigint not null,
  forecast jsonb not null,
  basis jsonb not null,
  shift jsonb,
  -- Whose working time it counts.
  people text[] not null,
  -- Whether experience still waits for what becomes of it; only the first of a circulation counts.
  awaited boolean not null,
  primary key (organization, circulation, day)
);
create index forecast_of on forecast using gin (people);
create index forecast_awaited on forecast (organization, at) where awaited;

-- What waits for somebody, whom something concerns and when it wakes by itself: of any stream that has tasks.
create table task (
  organization uuid not null,
  stream text not null,
  person text not null,
  doing text not null,
  seat text not null,
  stage text,
  about text not null,
  -- Whom cover cannot bring to it.
  kept text[] not null,
  since bigint not null,
  not_before bigint,
  due bigint,
  closes bigint,
  rank smallint not null,
  sort bigint not null,
  -- Begins with its stream.
  key text collate "C" not null,
  -- What reminders are counted from; and when the next one goes to whom, found out by the worker: null until then.
  silence jsonb,
  notice_at bigint,
  notice_to text,
  primary key (organization, key)
);
create index task_of_stream on task (organization, stream);
create index task_noticed on task (organization, notice_at) where notice_at is not null;
create index task_noticed_to on task (organization, notice_to, notice_at) where notice_at is not null;
create index task_unnoticed on task (organization) where notice_at is null and silence is not null;
create index task_listed on task (organization, person, rank, sort, key);

create table involvement (
  organization uuid not null,
  stream text not null,
  person text not null,
  primary key (organization, person, stream)
);
create index involvement_by_stream on involvement (organization, stream);

-- Who wants to be told everything of a circulation, or only what needs them; whoever chose nothing is not here.
create table following (
  organization uuid not null,
  circulation text not null,
  person text not null,
  level text not null,
  primary key (organization, circulation, person)
);

-- What people have noted of circulations for themselves, and when they want to come back to them.
create table own_note (
  organization uuid not null,
  person text not null,
  circulation text not null,
  text text not null,
  back bigint,
  primary key (organization, person, circulation)
);

-- What people were told in the application or will be told in a digest, in the words of then.
create table told (
  organization uuid not null,
  id text not null,
  person text not null,
  circulation text,
  at bigint not null,
  text text not null,
  path text not null,
  here boolean not null,
  read bigint,
  digest_at bigint,
  -- The job that sends the digest it stands in.
  digest text,
  primary key (organization, id)
);
create index told_here on told (organization, person, at desc) where here;
create index told_waiting on told (organization, digest_at) where digest_at is not null and digest is null;
create index told_digest on told (organization, digest) where digest is not null;
create index told_old on told (organization, at);

create table timer (
  organization uuid not null,
  stream text not null,
  kind text not null,
  key text not null,
  at bigint not null,
  primary key (organization, stream, kind, key)
);
create index timer_due on timer (organization, at);

create table register (
  organization uuid not null,
  record text not null,
  number text not null,
  title text not null,
  document_type text not null,
  owner text not null,
  -- The unit it belongs to; null for its owner's.
  unit text,
  details jsonb not null default '{}',
  complete boolean not null,
  revision text,
  effective bigint,
  in_progress text,
  coming text,
  changed bigint not null,
  primary key (organization, record),
  unique (organization, number)
);
create index register_listed on register (organization, number collate "C");
create index register_by_unit on register (organization, unit) where unit is not null;
create index register_incomplete on register (organization, owner, changed) where not complete;

-- The words of the register, lower case, read only through a function of the owner: the comparisons that find words are
-- not leakproof, so that under row security no index would serve them.
create table register_search (
  organization uuid not null,
  record text not null,
  number text not null,
  words text not null,
  primary key (organization, record)
);
create index register_search_ordered on register_search (organization, number collate "C");
create index register_search_words on register_search using gin (organization, words gin_trgm_ops);

create table revision (
  organization uuid not null,
  record text not null,
  revision text not null,
  title text not null,
  files jsonb not null,
  effective bigint not null,
  released bigint not null,
  by text not null,
  circulation text not null,
  primary key (organization, record, revision)
);

-- Links of outside people; the address itself is derived when needed and kept nowhere.
create table link (
  organization uuid not null,
  nonce text not null,
  circulation text not null,
  seat text not null,
  epoch integer not null,
  created bigint not null,
  primary key (organization, nonce),
  unique (organization, circulation, seat, epoch)
);

create table job (
  organization uuid not null,
  id text not null,
  kind text not null,
  data jsonb not null,
  run_at bigint not null,
  state text not null default 'waiting' check (state in ('waiting', 'done', 'failed')),
  attempts integer not null default 0,
  error text,
  created bigint not null,
  primary key (organization, id)
);
create index job_waiting on job (organization, kind, run_at) where state = 'waiting';
create index job_over on job (organization, created) where state = 'done';
-- Work that failed is asked for with its circulation; there is little of it among all that was ever done.
create index job_troubled on job (organization, (data ->> 'circulation')) where error is not null;
-- The draft page asks which pages of its versions are still waited for.
create index job_render on job (organization, (data ->> 'change')) where kind = 'render' and state <> 'done';

-- The words by which circulations and people are found, lower case; kept by triggers, as an index would be, and read only
-- through functions of the owner. A circulation is found by its number, its document, and whoever leads, writes or has it.
create table stream_search (
  organization uuid not null,
  stream text not null,
  words text not null,
  primary key (organization, stream)
);
create index stream_search_words on stream_search using gin (organization, words gin_trgm_ops);

create table person_search (
  organization uuid not null,
  person text not null,
  kind text not null,
  words text not null,
  primary key (organization, person)
);
create index person_search_words on person_search using gin (organization, words gin_trgm_ops);

create function keep_words(entered uuid, streams text[]) returns void language sql as $$
  insert into stream_search (organization, stream, words)
  select c.organization, c.stream, lower(concat_ws(' ', c.number, r.number, r.title, (
    select string_agg(p.name, ' ') from person p
    where p.organization = c.organization and p.id = any(c.holders || array[c.controller, c.author]))))
  from circulation c left join register r on r.organization = c.organization and r.record = c.record
  where c.organization = entered and c.stream = any(streams)
  on conflict (organization, stream) do update set words = excluded.words
  where stream_search.words <> excluded.words
$$;

create function circulation_words() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' then
    delete from stream_search s where s.organization = old.organization and s.stream = old.stream;
  else
    perform keep_words(new.organization, array[new.stream]);
  end if;
  return null;
end $$;
create trigger circulation_words after insert or delete on circulation for each row execute function circulation_words();
create trigger circulation_words_changed after update of number, record, controller, author, holders on circulation
  for each row when ((old.number, old.record, old.controller, old.author, old.holders)
    is distinct from (new.number, new.record, new.controller, new.author, new.holders)) execute function circulation_words();

create function register_words() returns trigger language plpgsql as $$
begin
  perform keep_words(new.organization, array(
    select c.stream from circulation c where c.organization = new.organization and c.record = new.record));
  return null;
end $$;
create trigger register_words after insert on register for each row execute function register_words();
create trigger register_words_changed after update of number, title on register
  for each row when ((old.number, old.title) is distinct from (new.number, new.title)) execute function register_words();

create function person_words() returns trigger language plpgsql as $$
begin
  insert into person_search (organization, person, kind, words)
  values (new.organization, new.id, new.kind, lower(concat_ws(' ', new.name, new.work, new.company, new.email)))
  on conflict (organization, person) do update set words = excluded.words;
  if tg_op = 'UPDATE' then
    if old.name <> new.name then
      perform keep_words(new.organization, array(
        select c.stream from circulation c
        where c.organization = new.organization and new.id = any(c.holders || array[c.controller, c.author])));
    end if;
  end if;
  return null;
end $$;
create trigger person_words after insert on person for each row execute function person_words();
create trigger person_words_changed after update of name, work, company, email on person
  for each row when ((old.name, old.work, old.company, old.email)
    is distinct from (new.name, new.work, new.company, new.email)) execute function person_words();

-- Everybody who may be asked together: the groups, and the people of each unit as `unit:` and its id. Members who are here.
create view asked_group with (security_invoker = true) as
  select g.organization, g.id, g.name, array(
    select p.id from person p where p.organization = g.organization and p.id = any(g.members) and p.state <> 'left'
    order by lower(p.name), p.id) as members
  from people_group g
  union all
  select u.organization, 'unit:' || u.id, u.name, array(
    select p.id from person p
    where p.organization = u.organization and p.unit = u.id and p.kind = 'member' and p.state <> 'left'
    order by lower(p.name), p.id)
  from unit u;
grant select on asked_group to avenda_app, avenda_worker;

-- The unit that each record belongs to: its own, or else its owner's.
create view record_unit with (security_invoker = true) as
  select r.organization, r.record, u.id, u.name, u.lead, u.deputy
  from register r
  left join person p on p.organization = r.organization and p.id = r.owner
  join unit u on u.organization = r.organization and u.id = coalesce(r.unit, p.unit);
grant select on record_unit to avenda_app, avenda_worker;

-- Row-level security: every table of an organization shows only the one that is set for the transaction.
create function current_organization() returns uuid language sql stable as $$
  select nullif(current_setting('avenda.organization', true), '')::uuid
$$;

do $$
declare
  name text;
begin
  foreach name in array array['profile', 'calendar', 'unit', 'people_group', 'office', 'document_type', 'person', 'absence', 'person_past', 'invitation', 'session', 'event', 'payload', 'command',
    'counter', 'file', 'chunk', 'upload', 'file_use', 'draft', 'draft_text', 'circulation', 'planning', 'task', 'involvement', 'timer', 'told', 'following', 'own_note',
    'register', 'register_search', 'stream_search', 'person_search', 'revision', 'link', 'job', 'lesson', 'forecast_model', 'forecast_experience', 'forecast']
  loop
    execute format('alter table %I enable row level security', name);
    -- The owner's own search functions must see past the policies of the tables they search; they name the organization
    -- themselves.
    if name not in ('register_search', 'stream_search', 'person_search') then
      execute format('alter table %I force row level security', name);
    end if;
    execute format('create policy own_organization on %I using (organization = current_organization()) with check (organization = current_organization())', name);
    execute format('grant select, insert, update, delete on %I to avenda_app, avenda_worker', name);
  end loop;
end $$;

-- What was recorded stays as it was: events are only ever added, files and chunks never overwritten, and a payload can
-- only be erased.
revoke update, delete on event from avenda_app, avenda_worker;
revoke update on chunk from avenda_app, avenda_worker;
revoke update, delete on payload from avenda_app, avenda_worker;
grant update (content) on payload to avenda_app, avenda_worker;
revoke update on file from avenda_app, avenda_worker;
-- Only the worker clears away what nothing uses.
revoke delete on file, chunk from avenda_app;
grant update (uploader) on file to avenda_app, avenda_worker;
create function payload_is_only_erased() returns trigger language plpgsql as $$
begin
  if new.content is not null then
    raise exception 'a payload is erased or left as it is';
  end if;
  return new;
end $$;
create trigger payload_stays before update on payload for each row execute function payload_is_only_erased();

grant select on installation, organization to avenda_app, avenda_worker;
grant insert on organization to avenda_app;
grant select, insert, update, delete on sign_in_address, attempt to avenda_app, avenda_worker;
grant select, insert, update on clock to avenda_app, avenda_worker;

-- Enters an organization for one transaction and answers, in one question, what every request asks first: which
-- instant this is, whom a session stands for, and what a command id was answered before. Runs with the caller's own
-- rights, so row-level security holds in it as everywhere.
create function avenda_enter(entered uuid, asking_session text, asking_command text)
returns table (now bigint, person text, roles text[], content text, answer text)
language plpgsql as $$
begin
  perform set_config('avenda.organization', entered::text, true);
  return query
    select n.now, p.id, p.roles, c.content, c.answer
    from avenda_now() as n (now)
    left join session s on s.organization = entered and s.token = asking_session and s.expires > n.now
    left join person p on p.organization = entered and p.id = s.person and p.state = 'active'
    left join command c on c.organization = entered and c.id = asking_command;
end $$;

-- Takes the next number of a scheme, alone in its own short transaction: nobody waits for what the number is for, and a
-- number that was taken is never given again. `above` is the highest known where the scheme was not counted yet.
create function take_number(entered uuid, scheme text, above integer) returns integer language plpgsql as $$
declare
  taken integer;
begin
  perform set_config('avenda.organization', entered::text, true);
  insert into counter (organization, name, value) values (entered, scheme, above + 1)
    on conflict (organization, name) do update set value = greatest(counter.value, above) + 1 returning value into taken;
  return taken;
end $$;

-- Which rows hold every one of the asked patterns in their words, longest pattern first. An index finds the longest; of one
-- so short that an index of three letters at a time says nothing, the words are read. What is found near the beginning is
-- found by reading there, since what is common is found soon; only what is rare is asked of the index.
create function search_streams(asked text[]) returns setof text
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
  if length(asked[1]) < 5 then
    return query select s.stream from stream_search s
      where s.organization = current_organization() and s.words || '' like all (asked);
  else
    return query select s.stream from stream_search s
      where s.organization = current_organization() and s.words like asked[1] and s.words like all (asked);
  end if;
end $$;

create function search_people(asked text[]) returns setof text
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
  if length(asked[1]) < 5 then
    return query select s.person from person_search s
      where s.organization = current_organization() and s.words || '' like all (asked);
  else
    return query select s.person from person_search s
      where s.organization = current_organization() and s.words like asked[1] and s.words like all (asked);
  end if;
end $$;

-- How many people of a kind, counted no further than `most`.
create function count_people(asked text[], wanted text, most integer) returns integer
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
  return (select count(*) from (
    select from person_search s
    where s.organization = current_organization() and s.kind = wanted and s.words || '' like all (asked) limit most) found);
end $$;

-- Of the records, in the order of their numbers behind `after`, no more than `most`.
create function search_register(asked text[], after text, most integer) returns setof text
language plpgsql stable security definer set search_path = public, pg_temp as $$
declare
  found text[];
begin
  found := array(
    select near.record from (
      select s.record, s.number, s.words from register_search s
      where s.organization = current_organization() and s.number collate "C" > after
      order by s.number collate "C" limit 2000) near
    where near.words like all (asked) order by near.number collate "C" limit most);
  if cardinality(found) < most then
    found := array(
      select fit.record from (
        select s.record, s.number from register_search s
        where s.organization = current_organization() and s.number collate "C" > after
          and s.words like asked[1] and s.words like all (asked) offset 0) fit
      order by fit.number collate "C" limit most);
  end if;
  return query select unnest(found);
end $$;

-- How many records hold them, counted no further than `most`.
create function count_register(asked text[], most integer) returns integer
language plpgsql stable security definer set search_path = public, pg_temp as $$
declare
  counted integer;
begin
  select count(*) into counted from (
    select from (
      select s.words from register_search s
      where s.organization = current_organization() order by s.number collate "C" limit 5000) near
    where near.words like all (asked) limit most) found;
  if counted < most then
    select count(*) into counted from (
      select from register_search s
      where s.organization = current_organization() and s.words like asked[1] and s.words like all (asked)
      limit most) found;
  end if;
  return counted;
end $$;

revoke execute on function avenda_enter, take_number, search_register, count_register, search_streams, search_people,
  count_people from public;
grant execute on function avenda_enter, take_number, search_register, count_register, search_streams, search_people,
  count_people to avenda_app, avenda_worker;
