//! What a claim says, once it is understood.

use crate::judge::{CellName, NoIndex};
use crate::record::Settings;
use serde::Serialize;

/// A sentence about results.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Claim {
    /// What it says.
    pub saying: Saying,
    /// What it is said of.
    pub scope: Scope,
    /// The measure it is about; without one, what each workload is about.
    pub measure: Option<String>,
    /// Wording that is commonly wrong, and how it was taken.
    pub cautions: Vec<Caution>,
}

/// Wording that misleads.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Caution {
    /// Nothing is said of where: it was taken as overall.
    NowhereSaid,
    /// An average of percentages depends on which is held against which: it was taken as overall.
    AverageOfPercentages,
    /// A percentage slower has two meanings.
    PercentSlower {
        /// The percentage, as it was said.
        said: String,
        /// The speed that it was taken as.
        speed: f64,
    },
    /// So many times faster is commonly said of so many times the speed, and was taken as that.
    TimesFaster {
        /// How many.
        times: f64,
    },
    /// A rig may have any place, since it has no index beside the one that is asked about.
    MayStandAnywhere {
        /// The rig.
        rig: String,
        /// Why it has none.
        why: NoIndex,
    },
    /// Of `up to` so much only the largest is true: what is usual is less.
    UpTo {
        /// The largest ratio.
        largest: f64,
        /// What it is of.
        of: CellName,
        /// The geometric mean of all.
        typical: f64,
        /// How many there are.
        among: usize,
    },
    /// The share that was called faster is that of the time saved.
    TimeSavedCalledSpeed {
        /// The share.
        share: f64,
        /// The measure.
        measure: String,
        /// What it is as speed.
        speed: f64,
    },
}

/// One of those that a claim is about.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Side {
    /// The rig.
    pub rig: String,
    /// Settings that narrow it to variants; empty means all.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
}

/// What a claim says.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Saying {
    /// `a` stands to `b` as the ratio says.
    Ratio {
        /// The one it is about.
        a: Side,
        /// The one it is held against.
        b: Side,
        /// What the ratio is of.
        sort: Sort,
        /// How the ratio is bounded.
        bound: Bound,
        /// The ratio, of `sort`.
        ratio: f64,
        /// The share by which it was said to be faster, where it was said so.
        faster_by: Option<f64>,
    },
    /// Both are the same, within a share.
    Same {
        /// One.
        a: Side,
        /// The other.
        b: Side,
        /// The share.
        within: f64,
    },
    /// `a` has one of these places among all rigs.
    Place {
        /// The rig.
        a: Side,
        /// The best of the places, from 1.
        best: usize,
        /// The worst of them; equal where it is one place.
        worst: usize,
        /// Whether they are counted from the other end.
        from_last: bool,
    },
    /// A measure of `a` lies where the bound says.
    Value {
        /// The rig.
        a: Side,
        /// How it is bounded.
        bound: Bound,
        /// The value, in the measure's own unit; times in seconds.
        value: f64,
        /// The unit as said.
        unit: String,
    },
}

/// What a ratio is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Sort {
    /// How many times better: of speed, where it is about times.
    Better,
    /// The measure's own values: half the energy.
    Values,
}

/// How a number is bounded.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Bound {
    /// It is this or more.
    AtLeast,
    /// It is this or less.
    AtMost,
    /// It is this, within the study's margin.
    About,
    /// It is more than this, and so much that nobody would call both the same.
    Above,
    /// It is less than this, likewise.
    Below,
    /// It lies between this and that.
    Between(f64),
    /// The largest of several is this, or about as much.
    UpTo,
}

impl Bound {
    /// Returns the bound of the reciprocal, or of what is left of a whole.
    pub(super) fn turned(self) -> Self {
        match self {
            Self::AtLeast => Self::AtMost,
            Self::AtMost => Self::AtLeast,
            Self::Above => Self::Below,
            Self::Below => Self::Above,
            Self::About => Self::About,
            Self::Between(to) => Self::Between(to),
            Self::UpTo => Self::UpTo,
        }
    }
}

/// What a claim is said of.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Scope {
    /// All workloads weighed into one figure.
    Overall,
    /// Every workload and variant, each for itself.
    Every,
    /// One workload: every variant of it that has these settings.
    One {
        /// The workload.
        workload: String,
        /// The settings.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
    },
}
