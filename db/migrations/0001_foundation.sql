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

-- Whole milliseconds; never before the one that was read last in the same transaction.
create function avenda_now() returns bigint language sql stable as $$
  select (extract(epoch from clock_timestamp()) * 1000)::bigint + coalesce((select forward_ms from clock), 0)
$$;

create table organization (
  id uuid primary key
);

-- Which organizations know an address: only hashes, so that signing in can begin before an organization is set.
create table door (
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
  letters text not null
);

create table kind (
  organization uuid not null references organization,
  code text not null,
  name text not null,
  scheme text not null,
  position integer not null,
  usual boolean not null default false,
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
  roles text[] not null default '{}',
  password text,
  state text not null check (state in ('active', 'invited', 'left')),
  created bigint not null,
  primary key (organization, id),
  unique (organization, email, kind)
);

create table invitation (
  organization uuid not null,
  token text not null,
  person text not null,
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

create table counter (
  organization uuid not null,
  name text not null,
  value integer not null,
  primary key (organization, name)
);

create table file (
  organization uuid not null,
  hash text not null,
  bytes bigint not null,
  media_type text not null,
  facts jsonb not null default '{}',
  created bigint not null,
  primary key (organization, hash)
);

create table chunk (
  organization uuid not null,
  hash text not null,
  position integer not null,
  bytes bytea not null,
  primary key (organization, hash, position)
);
alter table chunk alter column bytes set storage external;

-- The author's working copy of a change.
create table draft (
  organization uuid not null,
  change text not null,
  record text not null,
  circulation text not null,
  author text not null,
  controller text not null,
  source text not null default 'text' check (source in ('text', 'file')),
  story text,
  main text,
  attachments jsonb not null default '[]',
  revision integer not null default 0,
  saved bigint not null,
  primary key (organization, change)
);

-- Read tables: written by pure projections in the transaction of their events, and rebuilt from them.
create table circulation (
  organization uuid not null,
  id text not null,
  number text not null,
  record text not null,
  change text not null,
  controller text not null,
  author text not null,
  phase text not null,
  round integer not null,
  version integer not null,
  stops integer not null,
  seats integer not null,
  decided integer not null,
  next_due bigint,
  created bigint not null,
  sent bigint,
  ended bigint,
  last bigint not null,
  line jsonb not null,
  primary key (organization, id)
);
create unique index circulation_number on circulation (organization, number);
create index circulation_by_record on circulation (organization, record);
create index circulation_live on circulation (organization, last desc) where ended is null;

create table task (
  organization uuid not null,
  circulation text not null,
  person text not null,
  doing text not null,
  seat text not null,
  since bigint not null,
  due bigint,
  closes bigint,
  primary key (organization, circulation, person, doing, seat)
);
create index task_by_person on task (organization, person, due);

create table involvement (
  organization uuid not null,
  circulation text not null,
  person text not null,
  primary key (organization, person, circulation)
);
create index involvement_by_circulation on involvement (organization, circulation);

create table timer (
  organization uuid not null,
  circulation text not null,
  what text not null,
  seat text not null,
  at bigint not null,
  primary key (organization, circulation, what, seat)
);
create index timer_due on timer (organization, at);

create table register (
  organization uuid not null,
  record text not null,
  number text not null,
  title text not null,
  kind text not null,
  owner text not null,
  complete boolean not null,
  revision text,
  file text,
  effective bigint,
  in_work text,
  coming text,
  changed bigint not null,
  primary key (organization, record),
  unique (organization, number)
);
create index register_words on register using gin (to_tsvector('simple', number || ' ' || title));

create table revision (
  organization uuid not null,
  record text not null,
  revision text not null,
  file text not null,
  frozen text not null,
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
create index job_waiting on job (organization, run_at) where state = 'waiting';

-- Row-level security: every table of an organization shows only the one that is set for the transaction.
create function current_organization() returns uuid language sql stable as $$
  select nullif(current_setting('avenda.organization', true), '')::uuid
$$;

do $$
declare
  name text;
begin
  foreach name in array array['profile', 'kind', 'person', 'invitation', 'session', 'event', 'payload', 'command', 'counter',
    'file', 'chunk', 'draft', 'circulation', 'task', 'involvement', 'timer', 'register', 'revision', 'link', 'job']
  loop
    execute format('alter table %I enable row level security', name);
    execute format('alter table %I force row level security', name);
    execute format('create policy own_organization on %I using (organization = current_organization()) with check (organization = current_organization())', name);
    execute format('grant select, insert, update, delete on %I to avenda_app, avenda_worker', name);
  end loop;
end $$;

-- Events are only ever added.
revoke update, delete on event from avenda_app, avenda_worker;
grant select on installation, organization to avenda_app, avenda_worker;
grant insert on organization to avenda_app;
grant select, insert, update, delete on door, attempt to avenda_app, avenda_worker;
grant select, insert, update on clock to avenda_app, avenda_worker;
