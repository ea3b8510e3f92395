//! What a cell of a workbook shows, as text.

use calamine::{Data, ExcelDateTime};

/// Significant digits that a spreadsheet shows at most: beyond them stand rounding errors.
const DIGITS: usize = 15;

pub(super) fn shown(cell: &Data) -> String {
    match cell {
        Data::Empty => String::new(),
        Data::String(text) | Data::DateTimeIso(text) => text.clone(),
        Data::Int(number) => number.to_string(),
        Data::Float(number) => number_shown(*number),
        Data::Bool(is) => is.to_string(),
        Data::DateTime(moment) => moment_shown(*moment),
        Data::DurationIso(text) => duration(text).unwrap_or_else(|| text.clone()),
        Data::Error(error) => error.to_string(),
    }
}

fn number_shown(number: f64) -> String {
    let rounded: f64 = format!("{number:.*e}", DIGITS - 1).parse().unwrap_or(number);
    rounded.to_string()
}

/// A span or a time of day is hours, minutes and seconds; a day is a day.
fn moment_shown(moment: ExcelDateTime) -> String {
    let days = moment.as_f64();
    if moment.is_duration() || (0.0..1.0).contains(&days) {
        return clock(days * 86_400.0);
    }
    let (year, month, day, ..) = moment.to_ymd_hms_milli();
    format!("{year:04}-{month:02}-{day:02}")
}

fn clock(seconds: f64) -> String {
    let ms = (seconds * 1e3).round() as u64;
    let (h, m, s, ms) = (ms / 3_600_000, ms / 60_000 % 60, ms / 1_000 % 60, ms % 1_000);
    let whole = format!("{h}:{m:02}:{s:02}");
    if ms == 0 { whole } else { format!("{whole}.{ms:03}").trim_end_matches('0').to_owned() }
}

/// Returns what `PT00H07M52S` states as `0:07:52`.
fn duration(text: &str) -> Option<String> {
    let rest = text.strip_prefix("PT")?;
    let (hours, rest) = rest.split_once('H')?;
    let (minutes, rest) = rest.split_once('M')?;
    let seconds: f64 = rest.strip_suffix('S')?.replace(',', ".").parse().ok()?;
    let whole = hours.parse::<f64>().ok()? * 3_600.0 + minutes.parse::<f64>().ok()? * 60.0;
    Some(clock(whole + seconds))
}

#[cfg(test)]
mod tests {
    use super::*;
    use calamine::ExcelDateTimeType;

    #[test]
    fn a_cell_reads_as_it_is_shown() {
        let moment = |days: f64, kind| Data::DateTime(ExcelDateTime::new(days, kind, false));
        let span = ExcelDateTimeType::TimeDelta;
        for (cell, text) in [
            (Data::Float(341.2), "341.2"),
            (Data::Float(101.999_999_999_999_96), "102"),
            (Data::Int(812), "812"),
            (Data::String("5:41".into()), "5:41"),
            (Data::Empty, ""),
            (moment(472.0 / 86_400.0, span), "0:07:52"),
            (moment(472.5 / 86_400.0, span), "0:07:52.5"),
            (moment(0.327_777_777_777_778, ExcelDateTimeType::DateTime), "7:52:00"),
            (moment(1.5, span), "36:00:00"),
            (moment(46_095.0, ExcelDateTimeType::DateTime), "2026-03-14"),
            (Data::DurationIso("PT00H07M52S".into()), "0:07:52"),
            (Data::DateTimeIso("2026-03-14".into()), "2026-03-14"),
        ] {
            assert_eq!(shown(&cell), text, "{cell:?}");
        }
    }
}
