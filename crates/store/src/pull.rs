//! Fetching what is not here: sessions as they stand in the store, put into a file that is checked like any stranger's.

use crate::alike::{lap_details, lap_times};
use crate::arriving::{Arriving, arriving};
use crate::error::StoreError;
use crate::rows::values;
use crate::schema::{ALIKE, Kind, PACKED, SCHEMA, is_packed, read_by_figures};
use crate::store::Store;
use crate::sync::Step;
use honest_lap_core::endurance::Endured;
use honest_lap_logbook::carry::{Column, Shape, shapes};
use honest_lap_logbook::{AlikeLaps, AlikeTo};
use postgres::Transaction;
use postgres::fallible_iterator::FallibleIterator;
use postgres::types::ToSql;
use std::path::Path;

/// Sessions that are fetched at once, with all of their laps.
const MOST_SESSIONS: usize = 200;

/// What is fetched of each lap.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// Everything.
    Whole,
    /// All that figures are made of: outputs, command lines and seals stay where they are, and nearly all packed series.
    Figures,
}

/// Tables of which figures need nothing; packed series only those of laps that are to be worked out anew.
const NOT_IN_FIGURES: [&str; 3] = ["output", "seal", "signature"];

/// Returns what tells, in SQL, that what the endurance lap of `detail` comes to was not noted by this version, so that it is
/// worked out from its packed series and samples.
fn worked_out_anew(detail: &str) -> String {
    // As it is written down; what is written in another way is worked out too, which is never wrong.
    let noted = format!("{{\"version\":{},%", Endured::VERSION);
    // Most stores have none of them, and then no lap is looked at for it.
    format!(
        "EXISTS (SELECT 1 FROM {SCHEMA}.task t WHERE t.form {ENDURANCE})
         AND ({detail}.endured IS NULL OR {detail}.endured NOT LIKE '{noted}') AND EXISTS
             (SELECT 1 FROM {SCHEMA}.lap e JOIN {SCHEMA}.task t ON t.id = e.task
              WHERE e.id = {detail}.lap AND t.form {ENDURANCE})"
    )
}

/// What tasks have in their form that are run for hours.
const ENDURANCE: &str = "LIKE '%\"kind\":\"endurance\"%'";

impl Depth {
    fn has(self, table: &Shape) -> bool {
        self == Self::Whole || !NOT_IN_FIGURES.contains(&table.name)
    }

    /// Returns the columns of a table that are fetched.
    fn columns(self, table: &Shape) -> Vec<Column> {
        match self {
            Self::Whole => table.columns.clone(),
            Self::Figures => read_by_figures(table),
        }
    }

    /// Returns the question for the rows of a table that `which` says.
    fn query(self, table: &Shape, columns: &[Column], which: &str) -> String {
        let name = |column: &Column| match column.name {
            _ if is_packed(column) => {
                format!("(SELECT p.packed FROM {SCHEMA}.{PACKED} p WHERE p.sha256 = x.sha256)")
            }
            "traces" if self == Self::Figures => {
                format!("CASE WHEN {} THEN x.traces ELSE '{{}}' END", worked_out_anew("x"))
            }
            own => format!("x.{own}"),
        };
        let names: Vec<String> = columns.iter().map(name).collect();
        format!("SELECT {} FROM {SCHEMA}.{} x {which}", names.join(", "), table.name)
    }

    /// Returns how many sessions are fetched at once.
    fn at_once(self) -> usize {
        match self {
            Self::Whole => MOST_SESSIONS,
            Self::Figures => usize::MAX,
        }
    }

    /// Returns what keeps of a table whose rows tell by `lap` which lap they are of those that are fetched of sessions whose
    /// marks are the first parameter: of each lap, or of one of those that are alike.
    fn of_laps(self, lap: &str) -> String {
        let of = match self {
            Self::Whole => format!(
                "JOIN {SCHEMA}.lap l ON l.id = {lap} JOIN {SCHEMA}.session s ON s.id = l.session"
            ),
            // They are told by where they lie, so that no other lap is looked at.
            Self::Figures => format!(
                "JOIN {SCHEMA}.{ALIKE} a ON a.lap = {lap} JOIN {SCHEMA}.session s ON s.id = a.session"
            ),
        };
        format!("{of} WHERE s.mark = ANY ($1)")
    }
}

impl Store {
    /// Returns the marks of all sessions, in the order in which they came.
    pub fn marks(&mut self) -> Result<Vec<String>, StoreError> {
        let asked = format!("SELECT mark FROM {SCHEMA}.session ORDER BY id");
        let rows =
            self.client.query(&asked, &[]).map_err(StoreError::of("reading its sessions"))?;
        Ok(rows.iter().map(|row| row.get(0)).collect())
    }

    /// Writes the sessions `marks`, and all remarks, into a new file at `path`; returns the laps that are like one in it, where
    /// of such only one is.
    ///
    /// Nothing in it is to be believed before it was checked: a store is somebody else's machine.
    pub fn fetch(
        &mut self,
        marks: &[String],
        depth: Depth,
        path: &Path,
        step: &mut dyn FnMut(Step),
    ) -> Result<AlikeLaps, StoreError> {
        arriving(path, |arriving| self.read(marks, depth, arriving, step))
    }

    fn read(
        &mut self,
        marks: &[String],
        depth: Depth,
        arriving: &mut Arriving,
        step: &mut dyn FnMut(Step),
    ) -> Result<AlikeLaps, StoreError> {
        let shapes = shapes();
        // All by one moment: a session that goes on meanwhile is whole as far as it went.
        let doing = || StoreError::of("fetching sessions");
        let mut reading = self
            .client
            .build_transaction()
            .isolation_level(postgres::IsolationLevel::RepeatableRead)
            .read_only(true)
            .start()
            .map_err(doing())?;
        // Rows are sorted where they lie, and not on the server's disk; no question is worth compiling for.
        let settings = "SET LOCAL work_mem = '64MB'; SET LOCAL jit = off";
        reading.batch_execute(settings).map_err(doing())?;
        let mut get = |table: &Shape, which: &str, of: &[&(dyn ToSql + Sync)]| {
            let columns = depth.columns(table);
            let kinds: Vec<Kind> = columns.iter().map(Kind::of).collect();
            arriving.table(table, columns.iter().map(|column| column.name).collect());
            let query = depth.query(table, &columns, which);
            let mut rows = reading.query_raw(&query, of.iter().copied()).map_err(doing())?;
            while let Some(row) = rows.next().map_err(doing())? {
                if !arriving.row(values(&kinds, &row).map_err(doing())?) {
                    break;
                }
            }
            Ok::<(), StoreError>(())
        };
        // What laps refer to comes once, however many sessions use it; of figures, all there is: it is little.
        for table in shapes.iter().filter(|table| matches!(table.name, "task" | "variant")) {
            if depth == Depth::Figures {
                get(table, "ORDER BY x.id", &[])?;
                continue;
            }
            let (of, laps) = (table.name, depth.of_laps("y.id"));
            let used =
                format!("WHERE x.id IN (SELECT y.{of} FROM {SCHEMA}.lap y {laps}) ORDER BY x.id");
            get(table, &used, &[&marks])?;
        }
        let mut done = 0;
        for some in marks.chunks(depth.at_once()) {
            for table in shapes.iter().filter(|table| depth.has(table)) {
                let of = match table.name {
                    "task" | "variant" | "remark" => continue,
                    "session" => "WHERE x.mark = ANY ($1) ORDER BY x.id".to_owned(),
                    "lap" if depth == Depth::Figures => {
                        format!("{} ORDER BY x.session, x.number", depth.of_laps("x.id"))
                    }
                    "lap" | "seal" | "signature" => format!(
                        "JOIN {SCHEMA}.session s ON s.id = x.session WHERE s.mark = ANY ($1)
                         ORDER BY x.session, x.number"
                    ),
                    "chunk" if depth == Depth::Figures => format!(
                        "JOIN {SCHEMA}.lap_detail d ON d.lap = x.lap {} AND {} ORDER BY x.lap",
                        depth.of_laps("x.lap"),
                        worked_out_anew("d")
                    ),
                    _ => format!("{} ORDER BY x.lap", depth.of_laps("x.lap")),
                };
                get(table, &of, &[&some])?;
            }
            done += some.len();
            step(Step::Fetched(done, marks.len()));
        }
        for table in shapes.iter().filter(|table| table.name == "remark") {
            get(table, "ORDER BY x.place", &[])?;
        }
        let alike = match depth {
            Depth::Whole => AlikeLaps::new(),
            Depth::Figures => alike_laps(&mut reading, marks)?,
        };
        reading.commit().map_err(doing())?;
        Ok(alike)
    }
}

/// Reads what differs between laps that are kept together, by the number of the one that is fetched.
fn alike_laps(reading: &mut Transaction<'_>, marks: &[String]) -> Result<AlikeLaps, StoreError> {
    let doing = || StoreError::of("fetching the times of laps");
    let asked = format!(
        "SELECT a.lap, a.numbers, a.rounds, a.walls, a.details FROM {SCHEMA}.{ALIKE} a
             JOIN {SCHEMA}.session s ON s.id = a.session
         WHERE s.mark = ANY ($1) AND a.walls IS NOT NULL ORDER BY a.session, a.stretch"
    );
    let mut all = AlikeLaps::new();
    let mut rows = reading.query_raw(&asked, [&marks]).map_err(doing())?;
    while let Some(row) = rows.next().map_err(doing())? {
        let bytes = |at| row.try_get::<_, &[u8]>(at).map_err(doing());
        let lap: i64 = row.try_get(0).map_err(doing())?;
        let told: Option<&str> = row.try_get(4).map_err(doing())?;
        let times = lap_times(bytes(1)?, bytes(2)?, bytes(3)?).ok_or_else(|| garbled(lap))?;
        let details = match told {
            None => None,
            Some(told) => Some(lap_details(told, times.len()).ok_or_else(|| garbled(lap))?),
        };
        all.insert(lap, AlikeTo { times, details });
    }
    Ok(all)
}

fn garbled(lap: i64) -> StoreError {
    StoreError::Unfit {
        problem: format!(
            "what the store has of the times of laps, like its lap {lap}, says nothing"
        ),
        remedy: "lap verify --store says what is wrong there; lap sync fetches every lap by itself"
            .to_owned(),
    }
}
