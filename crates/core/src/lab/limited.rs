//! What a lap can be limited by, and what shows it.

use serde::Serialize;

/// What a lap was limited by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Limit {
    /// Memory: it was swapped, or waited for.
    Memory,
    /// A disk.
    Disk,
    /// A display's rate.
    Cap,
    /// Heat: the clock fell.
    Heat,
    /// The graphics card.
    Graphics,
    /// Every core.
    Processor,
    /// One thread, while other cores had nothing to do.
    OneThread,
    /// Other programs, which used the threads that it wanted.
    Contention,
    /// Something else: next to nothing was busy.
    Waiting,
}

/// What shows a limit.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Shows {
    /// So many bytes were swapped.
    Swapped(u64),
    /// Its own processes waited for memory, this share of the time.
    MemoryWait(f64),
    /// Its own processes waited for a disk, this share of the time.
    DiskWait(f64),
    /// Something waited for a disk, this share of the time, and its own processes moved so many bytes.
    DiskMoved {
        /// The share.
        share: f64,
        /// The bytes.
        bytes: u64,
    },
    /// This share of its frames kept to a rate in Hz.
    KeptTo {
        /// The share.
        share: f64,
        /// The rate.
        hz: f64,
    },
    /// Its clock fell, in MHz.
    ClockFell {
        /// The clock at first.
        from: f64,
        /// The clock at last.
        to: f64,
    },
    /// The card was in use, this share of the time.
    Card(f64),
    /// It used so many threads.
    Threads {
        /// How many, on average.
        used: f64,
        /// Of how many.
        of: f64,
        /// The use of the card meanwhile, where that idled.
        card: Option<f64>,
    },
    /// Every thread was in use, and not by it alone.
    Others {
        /// How many threads others used, on average.
        others: f64,
        /// How many it used itself.
        used: f64,
        /// Of how many.
        of: f64,
        /// Which programs they were, most first, where that is known.
        by: Vec<String>,
    },
}

/// A limit, and what shows it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Limited {
    /// What it is.
    pub by: Limit,
    /// What shows it.
    pub shows: Shows,
}
