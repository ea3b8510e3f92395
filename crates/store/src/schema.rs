//! The store's schema: the logbook's tables, made of its lists of columns, and the rules that the database holds to.
//!
//! A column that is added to the logbook is a column here, and part of what the database checks. Only two things are
//! otherwise: what is packed lies in a table of its own, under its hash, so that it is sent and kept once; and every record
//! says when it came and who brought it, which no client can set.

use honest_lap_logbook::carry::{Column, Role, Shape, shapes};

/// The schema's name.
pub(crate) const SCHEMA: &str = "honest_lap";
/// What laps lie in that are of one series and one outcome, together.
pub(crate) const ALIKE: &str = "alike";
/// What packed series lie in.
pub(crate) const PACKED: &str = "packed";
/// The column that stands in that table, and its hash.
pub(crate) const PACKED_COLUMNS: [&str; 2] = ["sha256", "packed"];

const RULES: &str = include_str!("rules.sql");
/// What keeps laps together that are alike.
const ALIKE_RULES: &str = include_str!("alike.sql");

/// What a value is in SQL.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    Number,
    Text,
    Bytes,
}

impl Kind {
    pub(crate) fn of(column: &Column) -> Self {
        match column.made.split(' ').next() {
            Some("INTEGER") => Self::Number,
            Some("BLOB") => Self::Bytes,
            _ => Self::Text,
        }
    }

    pub(crate) fn word(self) -> &'static str {
        match self {
            Self::Number => "bigint",
            Self::Text => "text",
            Self::Bytes => "bytea",
        }
    }
}

/// Returns the table called `name`, which the logbook has.
pub(crate) fn find<'s>(shapes: &'s [Shape], name: &str) -> &'s Shape {
    shapes.iter().find(|table| table.name == name).expect("the logbook's lists have this table")
}

/// Returns the columns of a table that are sent to the store.
pub(crate) fn sent(table: &Shape) -> Vec<Column> {
    let own =
        |column: &&Column| !matches!(column.role, Role::Own | Role::Place) && !is_packed(column);
    table.columns.iter().filter(own).copied().collect()
}

/// Returns whether a column is what lies in the table of packed series.
pub(crate) fn is_packed(column: &Column) -> bool {
    column.name == PACKED
}

/// Columns of the detail of laps of which figures need nothing, and that a logbook may leave empty.
const NOT_READ_BY_FIGURES: [&str; 6] =
    ["command", "folder", "exit_code", "signal", "peak_bytes", "peak_floor_bytes"];

/// Columns of laps and of their detail in which laps may differ that are kept together: what tells them apart, what no figure
/// reads, and the traces, which are kept of each.
const OF_EACH: [&str; 6] = ["number", "round", "wall_ns", "session", "started", "traces"];
/// Columns that laps have in common that are kept together, beside what they are of: what came of them.
const IN_COMMON: [&str; 6] = ["task", "variant", "warm_up", "outcome", "step_ns", "endured"];

/// Returns the columns of a table that figures need.
pub(crate) fn read_by_figures(table: &Shape) -> Vec<Column> {
    let read = |column: &&Column| {
        table.name != "lap_detail" || !NOT_READ_BY_FIGURES.contains(&column.name)
    };
    table.columns.iter().filter(read).copied().collect()
}

/// Returns what keeps laps together, with the columns in it that they have in common, and those of what is known of each.
fn alike_rules(shapes: &[Shape]) -> String {
    let (mut in_common, mut by, mut details) = (Vec::new(), Vec::new(), Vec::new());
    for table in shapes.iter().filter(|table| matches!(table.name, "lap" | "lap_detail")) {
        let alias = if table.name == "lap" { "l" } else { table.name };
        let own = |column: &&Column| {
            column.role != Role::Own
                && column.role != Role::Of("lap")
                && !OF_EACH.contains(&column.name)
        };
        for column in read_by_figures(table).iter().filter(own) {
            if IN_COMMON.contains(&column.name) {
                in_common.push(format!("{alias}.{}", column.name));
                by.push(format!("l.{}", column.name));
            } else {
                details.push(field(column, alias));
            }
        }
    }
    ALIKE_RULES
        .replace("/*in common*/", &in_common.join(", "))
        .replace("/*by*/", &by.join(", "))
        .replace("/*details*/", &details.join("\n                    || "))
}

/// Returns everything that makes a store in an empty database, of the format `format`.
pub(crate) fn schema(format: u32) -> String {
    let mut made = vec![
        format!("CREATE SCHEMA {SCHEMA}"),
        format!(
            "CREATE TABLE {SCHEMA}.store (format bigint NOT NULL, made timestamptz NOT NULL DEFAULT now())"
        ),
        format!("INSERT INTO {SCHEMA}.store (format) VALUES ({format})"),
        format!("CREATE SEQUENCE {SCHEMA}.place"),
        format!(
            "CREATE TABLE {SCHEMA}.{PACKED} (sha256 text COLLATE \"C\" PRIMARY KEY,
                 packed bytea NOT NULL CHECK (encode(sha256(packed), 'hex') = sha256))"
        ),
    ];
    let shapes = shapes();
    for table in &shapes {
        made.push(created(table));
        made.extend(indexes(table));
    }
    made.push(rules(&shapes));
    for table in shapes.iter().map(|table| table.name).chain([PACKED, "store"]) {
        made.push(format!(
            "CREATE TRIGGER never BEFORE UPDATE OR DELETE OR TRUNCATE ON {SCHEMA}.{table}
                 FOR EACH STATEMENT EXECUTE FUNCTION {SCHEMA}.never()"
        ));
    }
    made.join(";\n")
}

fn created(table: &Shape) -> String {
    let columns = table.columns.iter().filter(|column| !is_packed(column));
    let mut lines: Vec<String> = columns.flat_map(defined).collect();
    // An index over long texts has no room for them: see `indexes`.
    if !table.ends.is_empty() && table.name != "task" {
        lines.push(table.ends.to_owned());
    }
    format!("CREATE TABLE {SCHEMA}.{} (\n    {}\n)", table.name, lines.join(",\n    "))
}

fn defined(column: &Column) -> Vec<String> {
    let name = column.name;
    let asked = column.made.split_once(' ').map_or("", |(_, asked)| asked);
    match column.role {
        Role::Own => vec![format!("{name} bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY")],
        // One order over all that has one, as in a logbook.
        Role::Place => vec![
            format!("{name} bigint PRIMARY KEY DEFAULT nextval('{SCHEMA}.place')"),
            "came timestamptz NOT NULL DEFAULT clock_timestamp()".to_owned(),
            "writer name NOT NULL DEFAULT session_user".to_owned(),
        ],
        Role::Of(table) => vec![format!("{name} bigint {asked} REFERENCES {SCHEMA}.{table} (id)")],
        _ => {
            let kind = Kind::of(column);
            // Byte by byte, as seals have it, wherever the database stands.
            let order = if kind == Kind::Text { " COLLATE \"C\"" } else { "" };
            let asked = if name == "settings" { "NOT NULL" } else { asked };
            let refers = match name {
                "sha256" => format!(" REFERENCES {SCHEMA}.{PACKED} (sha256)"),
                _ => String::new(),
            };
            let empty = column.empty.map(|empty| format!(" DEFAULT '{empty}'")).unwrap_or_default();
            vec![format!("{name} {}{order} {asked}{refers}{empty}", kind.word())]
        }
    }
}

/// Returns the expressions that tell a row of `table` from every other, where they are long texts.
pub(crate) fn long_identity(table: &Shape) -> Option<String> {
    matches!(table.name, "task" | "variant").then(|| {
        let hashed = table.identity.iter().map(|name| format!("md5({name})"));
        hashed.collect::<Vec<_>>().join(", ")
    })
}

fn indexes(table: &Shape) -> Option<String> {
    let identity = long_identity(table)?;
    let name = table.name;
    Some(format!("CREATE UNIQUE INDEX {name}_is_one ON {SCHEMA}.{name} ({identity})"))
}

/// Returns the rules, with the records in them whose seals they check.
pub(crate) fn rules(shapes: &[Shape]) -> String {
    let find = |name: &str| shapes.iter().find(|shape| shape.name == name);
    let row =
        |name: &str, alias: &str| find(name).map(|table| fields(table, alias)).unwrap_or_default();
    let several = |name: &str| find(name).map(beside).unwrap_or_default();
    let head = |kind: &str| format!("'honest-lap {kind} 5' || chr(10)");
    let lap = [
        head("lap"),
        format!("{SCHEMA}.t('before', before.seal, NULL)"),
        format!("{SCHEMA}.t('session', s.mark, NULL)"),
        row("lap", "l"),
        row("task", "task"),
        row("variant", "variant"),
        row("lap_detail", "lap_detail"),
        several("output"),
        several("pass"),
        several("chunk"),
    ];
    [RULES, &alike_rules(shapes)]
        .concat()
        .replace("/*session*/", &format!("{} || {}", head("session"), row("session", "s")))
        .replace("/*lap*/", &lap.join("\n            || "))
        .replace("/*remark*/", &format!("{} || {}", head("remark"), row("remark", "r")))
}

/// Returns what brings a store up that was made before laps were kept together: by its owner.
pub(crate) fn brought_up() -> String {
    let shapes = shapes();
    let rules = rules(&shapes);
    // As they are now: lines are put together in place, and seals keep laps together.
    let again = |name: &str| {
        let (begin, end) = (format!("CREATE FUNCTION {SCHEMA}.{name}("), "END $$;");
        let rule = rules.find(&begin).map_or("", |at| &rules[at..]);
        let rule = &rule[..rule.find(end).map_or(0, |at| at + end.len())];
        rule.replacen("CREATE FUNCTION", "CREATE OR REPLACE FUNCTION", 1)
    };
    let (text, number, checks) = (again("t"), again("n"), again("seals_hold"));
    let alike = alike_rules(&shapes);
    // Filled before the rule is there that nobody fills it.
    let (made, guarded) = alike.split_at(alike.find("CREATE TRIGGER").unwrap_or(alike.len()));
    let (revoked, read) = (
        format!(
            "REVOKE ALL ON {SCHEMA}.{ALIKE} FROM PUBLIC; REVOKE ALL ON ALL FUNCTIONS IN SCHEMA {SCHEMA} FROM PUBLIC;"
        ),
        format!(
            "INSERT INTO {SCHEMA}.{ALIKE} SELECT f.* FROM
                 (SELECT DISTINCT session, {SCHEMA}.stretch(number) AS stretch FROM {SCHEMA}.lap) t,
                 LATERAL {SCHEMA}.alike_in(t.session, t.stretch) f;"
        ),
    );
    [&text, &number, made, &read, guarded, &checks, &revoked].join("\n")
}

/// Returns the lines of a row's sealed columns.
fn fields(table: &Shape, alias: &str) -> String {
    let sealed = table.columns.iter().filter(|column| column.is_sealed());
    let lines: Vec<String> = sealed.map(|column| field(column, alias)).collect();
    lines.join(" || ")
}

fn field(column: &Column, alias: &str) -> String {
    let name = column.name;
    let empty = column.empty.map_or("NULL".to_owned(), |empty| format!("'{empty}'"));
    match (Kind::of(column), column.role) {
        (Kind::Number, _) => format!("{SCHEMA}.n('{name}', {alias}.{name})"),
        (Kind::Text, Role::Digested) => format!("{SCHEMA}.h('{name}', {alias}.{name}, {empty})"),
        (Kind::Text, _) => format!("{SCHEMA}.t('{name}', {alias}.{name}, {empty})"),
        (Kind::Bytes, _) => format!("{SCHEMA}.h('{name}', {alias}.{name})"),
    }
}

/// Returns the lines of all rows of a table that stand beside a lap, in order.
fn beside(table: &Shape) -> String {
    let name = table.name;
    let order: Vec<String> = table.identity.iter().map(|column| format!("x.{column}")).collect();
    format!(
        "coalesce((SELECT string_agg({}, '' ORDER BY {}) FROM {SCHEMA}.{name} x WHERE x.lap = l.id), '')",
        fields(table, "x"),
        order.join(", ")
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_sealed_column_is_in_what_the_database_checks() {
        let rules = rules(&shapes());
        for table in shapes().iter().filter(|table| table.name != "signature") {
            for column in table.columns.iter().filter(|column| column.is_sealed()) {
                assert!(rules.contains(&format!("('{}', ", column.name)), "{}", column.name);
            }
        }
        assert!(!rules.contains("/*"), "a place for a record is left open");
    }

    #[test]
    fn what_tells_the_order_is_never_sent() {
        let names =
            |table: &Shape| sent(table).iter().map(|column| column.name).collect::<Vec<_>>();
        for table in shapes() {
            assert!(!names(&table).iter().any(|name| ["id", "place", "packed"].contains(name)));
        }
    }
}
