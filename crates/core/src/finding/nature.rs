//! Of what nature a doubt is: a test or a fact, and what it says of a lap.

use super::doubt::Doubt;
use crate::lab::Limit;

impl Doubt {
    /// Returns whether it says the same of a lap as that this limited it.
    pub fn says(&self, limit: Limit) -> bool {
        match limit {
            Limit::Memory => matches!(self, Self::Swapped { .. }),
            Limit::Disk | Limit::Waiting => matches!(self, Self::MostlyWaiting { .. }),
            Limit::Cap => matches!(self, Self::Capped { .. }),
            Limit::Heat => matches!(self, Self::Throttled { .. }),
            Limit::Contention => matches!(self, Self::MachineBusy { .. }),
            Limit::Graphics | Limit::Processor | Limit::OneThread => false,
        }
    }

    /// Returns whether a test raises it, and not a fact that cannot be otherwise.
    pub fn is_by_test(&self) -> bool {
        matches!(
            self,
            Self::FirstLap { .. }
                | Self::OddLap { .. }
                | Self::TwoGroups { .. }
                | Self::NotSteady { .. }
                | Self::SessionsDisagree { .. }
                | Self::StillFalling { .. }
                | Self::SlippedDigit { .. }
                | Self::DoesNotFit { .. }
                | Self::Repeated { .. }
                | Self::SessionsExchanged { .. }
                | Self::UpsideDown { .. }
        )
    }
}
