-- What must not happen is refused by the database too: rules that the mapping can't say.

create extension if not exists btree_gist;
create extension if not exists pg_trgm;

-- A holding is never paid twice for the same time.
alter table holding_facts add constraint ex_holding_facts_paid_once
  exclude using gist (holding_id with =, tstzrange("from", "to") with &&)
  where (kind in ('Paid', 'Trial', 'Given'));

-- Facts, journal, ledger, refunds and standing changes are append-only.
create function refuse_change() returns trigger language plpgsql as $$
begin
  raise exception '% is append-only: corrections are new rows', tg_table_name using errcode = 'restrict_violation';
end $$;
create trigger append_only before update or delete on holding_facts for each row execute function refuse_change();
create trigger append_only before update or delete on journal for each row execute function refuse_change();
create trigger append_only before update or delete on ledger for each row execute function refuse_change();
create trigger append_only before update or delete on refunds for each row execute function refuse_change();
create trigger append_only before update or delete on standing_changes for each row execute function refuse_change();

-- Every posting balances in each currency when its transaction commits.
create function check_posting() returns trigger language plpgsql as $$
begin
  if exists (select 1 from ledger where posting_id = new.posting_id group by currency having sum(amount_minor) <> 0) then
    raise exception 'posting % does not balance', new.posting_id using errcode = 'check_violation';
  end if;
  return null;
end $$;
create constraint trigger balanced after insert on ledger deferrable initially deferred for each row execute function check_posting();

-- How many members are in each standing, kept as they change, so that no page counts members.
create function count_standings() returns trigger language plpgsql as $$
begin
  insert into standing_counts as c (standing, members)
  select standing, sum(n) from (
    select standing, count(*) as n from new_rows group by standing
    union all
    select standing, -count(*) from old_rows group by standing) moved
  group by standing having sum(n) <> 0
  order by standing
  on conflict (standing) do update set members = c.members + excluded.members;
  return null;
end $$;
create function count_new_standings() returns trigger language plpgsql as $$
begin
  insert into standing_counts as c (standing, members)
  select standing, count(*) from new_rows group by standing order by standing
  on conflict (standing) do update set members = c.members + excluded.members;
  return null;
end $$;
create trigger count_standings after update on members referencing old table as old_rows new table as new_rows
  for each statement execute function count_standings();
create trigger count_new_standings after insert on members referencing new table as new_rows
  for each statement execute function count_new_standings();

-- Quick find over names and addresses.
create index ix_members_find on members using gin ((name || ' ' || email) gin_trgm_ops);
