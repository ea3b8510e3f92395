//! Records: what was written down, as plain data. Nothing here judges or sums up.

mod campaign;
mod capture;
mod conditions;
mod cut;
mod digest;
mod lap;
mod load;
mod measure;
mod page;
mod pass;
mod peak;
mod plain;
mod remark;
mod repeat;
mod rig;
mod sampled;
mod samples;
mod session;
mod study;
mod template;
mod trace;
mod variant;
mod work;
mod workload;

pub use campaign::{Campaign, CampaignPart, Goal};
pub use capture::{Choice, Ends};
pub use conditions::Conditions;
pub use cut::Cut;
pub use digest::{Busy, Cap, Digest, HoldsRate, Paced, PassAbout, Played, Sums};
pub use lap::{Captured, LapBody, LapHead, LapName, Outcome, Produced, RecordedPass, Usage};
pub use load::{Broke, Came, LoadRule, Loads, Strained};
pub use measure::{Better, Measure, Reading, SECONDS, TIME};
pub use page::{LapPage, SessionPage, TaskForm};
pub use pass::{Against, Display, Faults, Mark, Pass, Stretch};
pub use peak::{Peak, parse_rate, share_of_peak};
pub use plain::{plain_line, plain_lines};
pub use remark::{Remark, RemarkKind, Subject};
pub use repeat::{EnduranceRule, Repeat};
pub use rig::RigFound;
pub use sampled::{Sampled, battery_energy};
pub use samples::Samples;
pub use session::{Origin, SessionAbout, SessionName, SessionRecord, VersionLine, is_rig_name};
pub use study::{DEFAULT_MARGIN, Elsewhere, PublishedClaim, Rig, StatedPower, Study};
pub use template::{Template, TemplateError, Unfilled, is_name};
pub use trace::{Course, MeterSum, Quantity, Trace, Traces};
pub(crate) use variant::by_name;
pub use variant::{Settings, variants};
pub use work::{Formula, Work};
pub use workload::{
    CACHE, COLD, Find, FrameLog, Kind, Launch, Meter, Presented, Product, ReadingRule, Rest,
    Source, SplitRule, Splits, Task, WARM, Workload,
};
