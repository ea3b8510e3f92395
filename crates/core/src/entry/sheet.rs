//! What is asked of a table, and what it comes to.

use super::form::Form;
use super::grid::Place;
use crate::record::{Reading, Settings, TIME};
use crate::unit::{Date, Nanos};

/// A lap that somebody read off.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    /// The rig.
    pub rig: String,
    /// The workload.
    pub workload: String,
    /// The variant.
    pub settings: Settings,
    /// The day it was measured on, where that is said.
    pub on: Option<Date>,
    /// Its time and the step in which it was read, if that was.
    pub time: Option<(Nanos, Nanos)>,
    /// What else was read.
    pub readings: Vec<Reading>,
    /// Why it failed, where it did: nothing was read of it then.
    pub failed: Option<String>,
    /// Its first cell.
    pub place: Place,
}

impl Entry {
    /// Returns its values by the names of their measures, in the measures' units; the time first.
    pub fn values(&self) -> impl Iterator<Item = (&str, f64)> {
        let time = self.time.map(|(time, _)| (TIME, time.seconds()));
        let read = |reading: &'_ Reading| reading.value;
        let readings =
            self.readings.iter().filter_map(move |one| Some((one.name.as_str(), read(one)?)));
        time.into_iter().chain(readings)
    }
}

/// What is asked of a table besides what stands in it.
#[derive(Clone, Debug, Default)]
pub struct Wishes {
    /// The rig of all rows.
    pub rig: Option<String>,
    /// The workload of all rows.
    pub workload: Option<String>,
    /// What is read of a workload with several measures where no heading says it.
    pub measure: Option<String>,
    /// Settings of all rows.
    pub settings: Vec<(String, String)>,
    /// The day of all rows.
    pub on: Option<Date>,
    /// How times are written where no heading says it.
    pub form: Option<Form>,
    /// What columns are called here, by their headings: `Scene 1` is `still`; nothing leaves one out.
    pub called: Vec<(String, String)>,
    /// Rigs that were recorded, in the study or not.
    pub recorded: Vec<String>,
}

/// A rig that nobody knew.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NewRig {
    /// The name that it gets.
    pub name: String,
    /// What the table calls it.
    pub title: String,
}

/// How the times of a column are understood, by the first of them that could be meant otherwise.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Understood {
    /// Its place.
    pub place: Place,
    /// What stands there.
    pub seen: String,
    /// The time that it is read as.
    pub time: Nanos,
}

/// What a table comes to.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Sheet {
    /// Its laps, in the order of their rows.
    pub entries: Vec<Entry>,
    /// Rigs that nobody knew.
    pub new_rigs: Vec<NewRig>,
    /// How what could be meant otherwise was understood, one a column.
    pub understood: Vec<Understood>,
    /// Columns that are not read, as they are headed.
    pub left_out: Vec<String>,
    /// Rows that are not read, by what stands first in them: sums over others.
    pub sums: Vec<String>,
    /// Cells that say that nothing was measured.
    pub nothing: usize,
}

/// What is wrong in a table, where, and what to do about it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mistake {
    /// The cell; the first of several alike.
    pub place: Place,
    /// What is wrong.
    pub problem: String,
    /// What to do.
    pub remedy: String,
    /// How many more cells of its column are wrong alike.
    pub also: usize,
}
