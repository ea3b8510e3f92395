//! A search for a load that a person runs: what was tried today, and which load is next.

use crate::by_hand::HandLap;
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::capacity::{SearchLap, Searched, next_load, readings};
use honest_lap_core::record::{LoadOutcome, LoadRule, SessionName, Settings, Workload};
use honest_lap_logbook::Logbook;

/// A search of one variant on one rig.
pub struct HandSearch<'a> {
    pub workload: &'a Workload,
    pub settings: Settings,
    pub rule: &'a LoadRule,
    /// What was tried so far, on the day of the search.
    pub tried: Vec<SearchLap>,
    /// Where the last one on this rig ended.
    start: Option<usize>,
}

impl<'a> HandSearch<'a> {
    /// Returns the search of `workload` before anything was tried; an error where it is none that a person runs.
    pub fn of(workload: &'a Workload, settings: Settings) -> Result<Self, CmdError> {
        let rule = workload.task.kind.load().filter(|_| workload.task.by_hand.is_some());
        let Some(rule) = rule else {
            return Err(CmdError::request(
                format!("`{}` has no loads that a person tries", workload.name),
                "that is kind = \"capacity\" with by_hand and load in study.toml",
            ));
        };
        Ok(Self { workload, settings, rule, tried: Vec::new(), start: None })
    }

    /// Takes up what is on record of the day of `session`, or of none yet: then only where the last search on `rig` ended.
    pub fn resume(
        &mut self,
        open: &OpenStudy,
        logbook: &Logbook,
        (rig, session): (&str, Option<&SessionName>),
        ctx: &Ctx,
    ) -> Result<(), CmdError> {
        let lab = read_lab(&open.study, logbook, ctx)?;
        let mine = |search: &Searched<'_>| {
            let own = |lap: &honest_lap_core::record::LapHead| {
                lap.name.session.rig == rig
                    && lap.workload == self.workload.name
                    && lap.settings == self.settings
            };
            search.rule == self.rule && search.laps.first().is_some_and(|(lap, _)| own(lap))
        };
        for search in lab.searches().iter().filter(|search| mine(search)) {
            let holds = |session: &SessionName| {
                search.laps.iter().any(|(lap, _)| lap.name.session == *session)
            };
            let edge = search.edge.map(|edge| edge.at.max(0.0) as usize);
            match session {
                Some(session) if holds(session) => {
                    self.tried = search.laps.iter().map(|(_, tried)| *tried).collect();
                }
                _ => self.start = edge.or(self.start),
            }
        }
        Ok(())
    }

    /// Returns the load to try next, by its place; none where the edge is known.
    pub fn next(&self) -> Option<usize> {
        next_load(&self.rule.search(self.start), &self.tried)
    }

    /// Returns a load with its unit: `46 layers`.
    pub fn named(&self, place: usize) -> String {
        format!("{} {}", self.rule.text(place), self.rule.unit).trim_end().to_owned()
    }

    /// Returns the lap of a load of which `came` came.
    pub fn lap<'l>(&'l self, place: usize, came: LoadOutcome, ctx: &Ctx) -> HandLap<'l> {
        let readings = readings(self.rule, place, Some(came));
        HandLap::read(self.workload, &self.settings, None, readings, ctx)
    }
}
