-- The present of this installation, in whole milliseconds. In the procedural language, whose plans are kept: a function
-- of plain SQL is planned again at every call.
create or replace function avenda_now() returns bigint language plpgsql stable as $$
begin
  return (extract(epoch from clock_timestamp()) * 1000)::bigint + coalesce((select forward_ms from clock), 0);
end $$;

-- Enters an organization for one transaction and answers, in one question, what every request asks first: which
-- instant this is, whom a session stands for, and what a command id was answered before. Runs with the caller's own
-- rights, so row-level security holds in it as everywhere.
create function avenda_enter(entered uuid, asking_session text, asking_command text)
returns table (now bigint, person text, roles text[], content text, answer text)
language plpgsql as $$
begin
  perform set_config('avenda.organization', entered::text, true);
  now := avenda_now();
  if asking_session is not null then
    select p.id, p.roles into person, roles
    from session s join person p on p.organization = s.organization and p.id = s.person
    where s.organization = entered and s.token = asking_session and s.expires > now and p.state = 'active';
  end if;
  if asking_command is not null then
    select c.content, c.answer into content, answer
    from command c where c.organization = entered and c.id = asking_command;
  end if;
  return next;
end $$;
revoke execute on function avenda_enter from public;
grant execute on function avenda_enter to avenda_app, avenda_worker;

-- Nothing searches the register's words yet, and every release paid for it; the search brings its own index.
drop index register_words;
