-- Who may do what, and what the database refuses: on whatever client, in whatever state.

-- Lines of a record in its one encoding (docs/formats/logbook.md); nothing is no line. Every number is cast to text: what is
-- joined to one as it is stands in no other statement's place, and is called for every field of every lap.
CREATE FUNCTION honest_lap.t(name text, value text, empty text) RETURNS text LANGUAGE sql IMMUTABLE AS
$$ SELECT CASE WHEN value IS NULL OR value = empty THEN ''
               ELSE name || ' t' || octet_length(value)::text || ':' || value || chr(10) END $$;
CREATE FUNCTION honest_lap.n(name text, value bigint) RETURNS text LANGUAGE sql IMMUTABLE AS
$$ SELECT CASE WHEN value IS NULL THEN ''
               ELSE name || ' n' || length(value::text)::text || ':' || value::text || chr(10) END $$;
CREATE FUNCTION honest_lap.hash(value text) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT encode(sha256(convert_to(value, 'UTF8')), 'hex') $$;
CREATE FUNCTION honest_lap.h(name text, value text, empty text) RETURNS text LANGUAGE sql STABLE AS
$$ SELECT CASE WHEN value IS NULL OR value = empty THEN ''
               ELSE name || ' h64:' || honest_lap.hash(value) || chr(10) END $$;
CREATE FUNCTION honest_lap.h(name text, value bytea) RETURNS text LANGUAGE sql IMMUTABLE AS
$$ SELECT CASE WHEN value IS NULL THEN ''
               ELSE name || ' h64:' || encode(sha256(value), 'hex') || chr(10) END $$;

-- Which login may write which rig's sessions; `*` is any. Only the owner of the schema writes here.
CREATE TABLE honest_lap.may_write (role name NOT NULL, rig text NOT NULL, PRIMARY KEY (role, rig));
CREATE TABLE honest_lap.may_remark (role name PRIMARY KEY);

CREATE FUNCTION honest_lap.writes(of_rig text) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS
$$ SELECT EXISTS (SELECT 1 FROM may_write w WHERE w.role = session_user AND w.rig IN (of_rig, '*')) $$;
CREATE FUNCTION honest_lap.remarks() RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS
$$ SELECT EXISTS (SELECT 1 FROM may_remark m WHERE m.role = session_user) $$;

-- A record is committed with its seal, or not at all.
ALTER TABLE honest_lap.lap ADD CONSTRAINT lap_is_sealed
    FOREIGN KEY (session, number) REFERENCES honest_lap.seal (session, number) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE honest_lap.session ADD COLUMN record bigint GENERATED ALWAYS AS (0) STORED;
ALTER TABLE honest_lap.session ADD CONSTRAINT session_is_sealed
    FOREIGN KEY (id, record) REFERENCES honest_lap.seal (session, number) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE honest_lap.signature ADD CONSTRAINT signature_is_of_a_seal
    FOREIGN KEY (session, number) REFERENCES honest_lap.seal (session, number);

CREATE FUNCTION honest_lap.seals_hold() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS $$
DECLARE
    wrong text;
    sealed bigint;
BEGIN
    -- One writer of a session at a time: what is looked at here is what is committed.
    PERFORM 1 FROM session s WHERE s.id IN (SELECT k.session FROM new_rows k) ORDER BY s.id FOR UPDATE;
    SELECT s.rig INTO wrong FROM new_rows k JOIN session s ON s.id = k.session WHERE NOT writes(s.rig) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION '% may not write sessions of %', session_user, wrong USING ERRCODE = 'insufficient_privilege';
    END IF;
    IF EXISTS (SELECT 1 FROM new_rows k WHERE k.form <> 5) THEN
        RAISE EXCEPTION 'a seal is over an encoding that the store does not check' USING ERRCODE = 'check_violation';
    END IF;
    SELECT s.mark INTO wrong
    FROM (SELECT k.session, min(k.number) AS first, count(*) AS laps FROM new_rows k GROUP BY k.session) came
        JOIN session s ON s.id = came.session
    WHERE came.laps < (SELECT count(*) FROM seal o WHERE o.session = came.session AND o.number >= came.first) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION 'session % goes on behind its last record, never before it', wrong USING ERRCODE = 'check_violation';
    END IF;
    SELECT s.mark INTO wrong FROM new_rows k JOIN session s ON s.id = k.session
    WHERE k.number = 0 AND k.seal IS DISTINCT FROM hash(/*session*/) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION 'session % is not what its seal says', wrong USING ERRCODE = 'check_violation';
    END IF;
    WITH told AS (
        SELECT s.mark || '.' || k.number AS name, k.seal, hash(/*lap*/) AS found
        FROM new_rows k
            JOIN session s ON s.id = k.session
            JOIN LATERAL (SELECT b.seal FROM seal b WHERE b.session = k.session AND b.number < k.number
                          ORDER BY b.number DESC LIMIT 1) before ON true
            JOIN lap l ON l.session = k.session AND l.number = k.number
            JOIN task ON task.id = l.task
            JOIN variant ON variant.id = l.variant
            JOIN lap_detail ON lap_detail.lap = l.id
        WHERE k.number > 0
    )
    SELECT min(told.name) FILTER (WHERE told.seal IS DISTINCT FROM told.found), count(*) INTO wrong, sealed FROM told;
    IF wrong IS NOT NULL THEN
        RAISE EXCEPTION 'lap % is not what its seal says, or does not follow the record before it', wrong
            USING ERRCODE = 'check_violation';
    END IF;
    IF sealed < (SELECT count(*) FROM new_rows k WHERE k.number > 0) THEN
        RAISE EXCEPTION 'a seal is of a lap that is not there whole' USING ERRCODE = 'check_violation';
    END IF;
    DELETE FROM alike a USING new_rows k
    WHERE a.session = k.session AND a.stretch = stretch(k.number) AND k.number > 0;
    INSERT INTO alike
    SELECT f.* FROM (SELECT DISTINCT k.session, stretch(k.number) AS stretch FROM new_rows k WHERE k.number > 0) t,
        LATERAL alike_in(t.session, t.stretch) f;
    RETURN NULL;
END $$;
CREATE TRIGGER seals_hold AFTER INSERT ON honest_lap.seal REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.seals_hold();

-- Nothing is slipped into a lap that is sealed.
CREATE FUNCTION honest_lap.is_unsealed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM new_rows r JOIN lap l ON l.id = r.lap
                   JOIN seal k ON k.session = l.session AND k.number = l.number) THEN
        RAISE EXCEPTION 'what is recorded is never added to' USING ERRCODE = 'check_violation';
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER is_unsealed AFTER INSERT ON honest_lap.lap_detail REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.is_unsealed();
CREATE TRIGGER is_unsealed AFTER INSERT ON honest_lap.output REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.is_unsealed();
CREATE TRIGGER is_unsealed AFTER INSERT ON honest_lap.pass REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.is_unsealed();
CREATE TRIGGER is_unsealed AFTER INSERT ON honest_lap.chunk REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.is_unsealed();

CREATE FUNCTION honest_lap.signatures_are_ours() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS $$
DECLARE
    wrong text;
BEGIN
    SELECT s.rig INTO wrong FROM new_rows r JOIN session s ON s.id = r.session WHERE NOT writes(s.rig) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION '% may not sign sessions of %', session_user, wrong USING ERRCODE = 'insufficient_privilege';
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER signatures_are_ours AFTER INSERT ON honest_lap.signature REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.signatures_are_ours();

CREATE FUNCTION honest_lap.remarks_hold() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = honest_lap, pg_temp AS $$
DECLARE
    wrong text;
BEGIN
    IF NOT remarks() THEN
        RAISE EXCEPTION '% may not add remarks', session_user USING ERRCODE = 'insufficient_privilege';
    END IF;
    SELECT r.mark INTO wrong FROM new_rows r WHERE r.form <> 5 OR r.seal IS DISTINCT FROM hash(/*remark*/) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION 'remark % is not what its seal says', wrong USING ERRCODE = 'check_violation';
    END IF;
    SELECT r.mark INTO wrong FROM new_rows r
    WHERE r.before <> '' AND NOT EXISTS (SELECT 1 FROM remark b WHERE b.seal = r.before) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION 'the remark before % is not here', wrong USING ERRCODE = 'check_violation';
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER remarks_hold AFTER INSERT ON honest_lap.remark REFERENCING NEW TABLE AS new_rows
    FOR EACH STATEMENT EXECUTE FUNCTION honest_lap.remarks_hold();

-- Not even the owner alters what is recorded, unless by taking these rules away.
CREATE FUNCTION honest_lap.never() RETURNS trigger LANGUAGE plpgsql AS
$$ BEGIN RAISE EXCEPTION 'what is recorded is never altered' USING ERRCODE = 'insufficient_privilege'; END $$;

ALTER TABLE honest_lap.session ENABLE ROW LEVEL SECURITY;
ALTER TABLE honest_lap.session FORCE ROW LEVEL SECURITY;
CREATE POLICY all_read ON honest_lap.session FOR SELECT USING (true);
-- Its rules lock the session that is gone on with; no row can be changed: there is a trigger, and nobody has the right.
CREATE POLICY rules_lock ON honest_lap.session FOR UPDATE USING (true) WITH CHECK (false);
CREATE POLICY own_rig ON honest_lap.session FOR INSERT WITH CHECK (honest_lap.writes(rig));
ALTER TABLE honest_lap.remark ENABLE ROW LEVEL SECURITY;
ALTER TABLE honest_lap.remark FORCE ROW LEVEL SECURITY;
CREATE POLICY all_read ON honest_lap.remark FOR SELECT USING (true);
CREATE POLICY by_people ON honest_lap.remark FOR INSERT WITH CHECK (honest_lap.remarks());

REVOKE ALL ON SCHEMA honest_lap FROM PUBLIC;
REVOKE ALL ON ALL TABLES IN SCHEMA honest_lap FROM PUBLIC;
REVOKE ALL ON ALL FUNCTIONS IN SCHEMA honest_lap FROM PUBLIC;
