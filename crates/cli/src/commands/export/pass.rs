//! The frames of one pass, as `lap import` reads them back.

use crate::error::CmdError;
use honest_lap_core::record::{Cut, LapName, RecordedPass};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::stream_error;
use std::io::{self, Write};

/// A pass, and what of it is left out.
pub struct Pass {
    recorded: RecordedPass,
    pub cut: Cut,
}

impl Pass {
    /// Reads the pass called `name`, its cuts left in where it is wanted `whole`.
    pub fn read(name: &LapName, whole: bool, logbook: &Logbook) -> Result<Option<Self>, CmdError> {
        let Some(recorded) = logbook.pass(name)? else { return Ok(None) };
        let digest = if whole { None } else { logbook.all_digests()?.remove(name) };
        let cut = digest.map(|digest| digest.cut).unwrap_or_default();
        Ok(Some(Self { recorded, cut }))
    }

    /// Writes its frames, a row each, and returns how many; a mark stands beside the first frame behind it.
    pub fn write(&self, out: &mut dyn Write) -> io::Result<usize> {
        write(&self.recorded, &self.cut, out)
    }
}

fn write(recorded: &RecordedPass, cut: &Cut, out: &mut dyn Write) -> io::Result<usize> {
    let (pass, marks) = (&recorded.pass, &recorded.about.marks);
    let series = [
        ("processor_busy_ns", &pass.processor),
        ("graphics_busy_ns", &pass.graphics),
        ("call_ns", &pass.presenting),
    ];
    let known: Vec<_> = series.into_iter().filter(|(_, series)| !series.is_empty()).collect();
    let mut table = csv::Writer::from_writer(out);
    let mut row = vec!["frame_time_ns".to_owned()];
    row.extend(known.iter().map(|(name, _)| (*name).to_owned()));
    if !marks.is_empty() {
        row.push("mark".to_owned());
    }
    table.write_record(&row).map_err(stream_error)?;
    let (mut rows, mut moment) = (0, 0);
    let mut waiting: Vec<&str> = Vec::new();
    for (place, shown) in pass.shown.iter().enumerate() {
        let here = marks.iter().filter(|mark| mark.frame == place as u64);
        waiting.extend(here.map(|mark| mark.name.as_str()));
        let out = cut.leaves_out(Nanos(moment));
        moment += shown;
        if out {
            continue;
        }
        row.clear();
        row.push(shown.to_string());
        row.extend(known.iter().map(|(_, series)| series[place].to_string()));
        if !marks.is_empty() {
            row.push(waiting.join("; "));
            waiting.clear();
        }
        table.write_record(&row).map_err(stream_error)?;
        rows += 1;
    }
    table.flush()?;
    Ok(rows)
}
