//! Where a cut begins or ends, as people say it: a time, or a mark of the pass.

use crate::record::{Cut, Mark, Stretch};
use crate::unit::{Nanos, parse_span};

/// A place in a pass.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Edge {
    /// This long after its beginning.
    Time(Nanos),
    /// At the mark of this name.
    Mark(String),
}

impl Edge {
    /// Returns the place that `text` names: what reads as a time is one.
    pub fn parse(text: &str) -> Self {
        match (text.trim(), parse_span(text)) {
            ("0", _) => Self::Time(Nanos(0)),
            (_, Ok(time)) => Self::Time(time),
            (name, Err(_)) => Self::Mark(name.to_owned()),
        }
    }
}

/// What is to be left out of passes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Cutting {
    /// Everything ahead of this.
    pub from: Option<Edge>,
    /// Everything behind this.
    pub to: Option<Edge>,
    /// What lies between these.
    pub without: Vec<(Edge, Edge)>,
}

/// Why a pass cannot be cut so.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CutError {
    /// It has no such mark.
    #[error("it has no mark `{name}`")]
    NoMark {
        /// The mark asked for.
        name: String,
        /// The marks there are.
        known: Vec<String>,
    },
    /// A place lies behind its end.
    #[error("`{edge}` lies behind its end")]
    Behind {
        /// The place.
        edge: String,
    },
    /// A stretch ends where it begins, or ahead of that.
    #[error("a stretch ends before it begins")]
    Backward,
}

impl Cutting {
    /// Returns the cut of a pass of `frames` with these `marks`.
    ///
    /// * Errors: [`CutError`] where a mark is not there or an end lies outside of the pass.
    pub fn of(&self, frames: &[u64], marks: &[Mark]) -> Result<Cut, CutError> {
        let whole: u64 = frames.iter().sum();
        let place = |edge: &Edge| place(edge, frames, marks, whole);
        let mut stretches = Vec::new();
        let from = self.from.as_ref().map(place).transpose()?.unwrap_or_default();
        let to = self.to.as_ref().map(place).transpose()?.unwrap_or(Nanos(whole));
        if to <= from {
            return Err(CutError::Backward);
        }
        stretches.push(Stretch { from: Nanos(0), to: from });
        if to < Nanos(whole) {
            stretches.push(Stretch { from: to, to: Nanos(whole) });
        }
        for (begin, end) in &self.without {
            let stretch = Stretch { from: place(begin)?, to: place(end)? };
            if stretch.to <= stretch.from {
                return Err(CutError::Backward);
            }
            stretches.push(stretch);
        }
        Ok(Cut::without(stretches))
    }
}

fn place(edge: &Edge, frames: &[u64], marks: &[Mark], whole: u64) -> Result<Nanos, CutError> {
    match edge {
        Edge::Time(time) if time.0 <= whole => Ok(*time),
        Edge::Time(time) => Err(CutError::Behind { edge: crate::unit::display_span(*time) }),
        Edge::Mark(name) => {
            let mark = marks.iter().find(|mark| mark.name == *name);
            let known = || marks.iter().map(|mark| mark.name.clone()).collect();
            let mark =
                mark.ok_or_else(|| CutError::NoMark { name: name.clone(), known: known() })?;
            let frames = frames.iter().take(usize::try_from(mark.frame).unwrap_or(usize::MAX));
            Ok(Nanos(frames.sum()))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    #[test]
    fn a_pass_is_cut_by_time_and_by_mark() {
        let frames = vec![10 * MS; 1_000];
        let marks = [Mark { frame: 200, name: "the rings".into() }];
        let cutting = Cutting {
            from: Some(Edge::parse("the rings")),
            to: Some(Edge::parse("9s")),
            without: vec![(Edge::parse("4s"), Edge::parse("0:05"))],
        };
        let cut = cutting.of(&frames, &marks).unwrap();
        assert_eq!(cut.to_string(), "0–2 s, 4–5 s, 9–10 s");
        assert_eq!(Cutting::default().of(&frames, &marks), Ok(Cut::default()));
    }

    #[test]
    fn what_is_not_there_is_said() {
        let frames = vec![10 * MS; 10];
        let from = |text: &str| Cutting { from: Some(Edge::parse(text)), ..Cutting::default() };
        let known = Vec::new();
        assert_eq!(
            from("moon").of(&frames, &[]),
            Err(CutError::NoMark { name: "moon".into(), known })
        );
        assert!(matches!(from("1s").of(&frames, &[]), Err(CutError::Behind { .. })));
        let empty = Cutting { to: Some(Edge::Time(Nanos(0))), ..Cutting::default() };
        assert_eq!(empty.of(&frames, &[]), Err(CutError::Backward));
    }
}
