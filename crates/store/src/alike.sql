-- What figures read of laps, made of them by the rules alone.

-- Numbers one after the other: the first and two steps where they go on by these in turn, and each where they do not.
CREATE FUNCTION honest_lap.steps(numbers bigint[]) RETURNS bytea LANGUAGE sql IMMUTABLE AS
$$ SELECT CASE WHEN bool_and(u.number = numbers[1] + (u.at - 1) / 2 * (one.step + other.step) + (u.at - 1) % 2 * one.step)
               THEN int4send(numbers[1]::int) || int4send(one.step::int) || int4send(other.step::int)
               ELSE string_agg(int4send(u.number::int), '' ORDER BY u.at) END
   FROM unnest(numbers) WITH ORDINALITY u(number, at), (SELECT numbers[2] - numbers[1]) one(step),
        (SELECT coalesce(numbers[3] - numbers[2], 0)) other(step)
   GROUP BY one.step, other.step $$;

-- Laps of a session that are of one series and one outcome: one of them, and what differs between them: their numbers, rounds
-- and times, and what else is known of each where that is not the same of all. Worked out anew for so many laps at once as a
-- session goes on, and never by a client. What is very long stands alone, and so does what is worked out from packed series.
CREATE FUNCTION honest_lap.stretch(number bigint) RETURNS bigint LANGUAGE sql IMMUTABLE AS
$$ SELECT number / 4096 $$;
CREATE FUNCTION honest_lap.alike_in(of_session bigint, of_stretch bigint)
RETURNS TABLE (lap bigint, session bigint, stretch bigint, numbers bytea, rounds bytea, walls bytea, details text)
LANGUAGE sql STABLE SET search_path = honest_lap, pg_temp AS
$$ SELECT min(l.id), of_session, of_stretch,
          CASE WHEN count(*) > 1 THEN steps(array_agg(l.number ORDER BY l.number)) END,
          CASE WHEN count(*) > 1 THEN steps(array_agg(l.round ORDER BY l.number)) END,
          CASE WHEN count(*) > 1 THEN string_agg(int8send(coalesce(l.wall_ns, 0)), '' ORDER BY l.number) END,
          CASE WHEN min(l.details) <> max(l.details) THEN string_agg(l.details, '' ORDER BY l.number) END
   FROM (SELECT l.id, l.number, l.round, l.wall_ns, /*in common*/, (/*details*/ || chr(10)) COLLATE "C" AS details,
                coalesce(pass.lap, CASE WHEN task.form LIKE '%"kind":"endurance"%' THEN l.id END) AS alone
         FROM lap l JOIN lap_detail ON lap_detail.lap = l.id JOIN task ON task.id = l.task LEFT JOIN pass ON pass.lap = l.id
         WHERE l.session = of_session AND l.number BETWEEN of_stretch * 4096 AND of_stretch * 4096 + 4095
         -- What is known of each is put together once, and not wherever it is looked at.
         OFFSET 0) l
   GROUP BY /*by*/, l.wall_ns IS NULL, l.alone, CASE WHEN octet_length(l.details) > 65536 THEN l.id END $$;
CREATE TABLE honest_lap.alike (
    lap bigint PRIMARY KEY REFERENCES honest_lap.lap (id),
    session bigint NOT NULL REFERENCES honest_lap.session (id),
    stretch bigint NOT NULL,
    numbers bytea, rounds bytea, walls bytea, details text COLLATE "C"
);
ALTER TABLE honest_lap.alike ALTER COLUMN walls SET STORAGE EXTERNAL, ALTER COLUMN details SET STORAGE EXTERNAL;
CREATE INDEX alike_is_of ON honest_lap.alike (session, stretch);
CREATE FUNCTION honest_lap.by_rules_alone() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF pg_trigger_depth() < 2 THEN
        RAISE EXCEPTION 'what follows from laps is made of them, and never by hand' USING ERRCODE = 'insufficient_privilege';
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER by_rules_alone BEFORE INSERT OR UPDATE OR DELETE OR TRUNCATE ON honest_lap.alike
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.by_rules_alone();
