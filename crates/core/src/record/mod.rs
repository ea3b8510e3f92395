//! Records: what was written down, as plain data. Nothing here judges or sums up.

mod campaign;
mod canonical;
mod capture;
mod conditions;
mod counted;
mod cut;
mod digest;
mod framed;
mod kind;
mod lap;
mod load;
mod measure;
mod mode;
mod name;
mod page;
mod part;
mod pass;
mod peak;
mod picture;
mod plain;
mod plain_json;
mod remark;
mod repeat;
mod rig;
mod rules;
mod sampled;
mod samples;
mod session;
mod shell_text;
mod study;
mod task_text;
mod template;
mod trace;
mod variant;
mod work;
mod workload;

pub use campaign::{Campaign, CampaignPart, Goal};
pub use canonical::{CANONICAL, Canonical};
pub use capture::{Choice, Ends};
pub use conditions::{Conditions, OtherProgram};
pub use counted::CountedPower;
pub use cut::Cut;
pub use digest::{Busy, Cap, Digest, HoldsRate, Paced, PassAbout, Played, Sums};
pub use framed::{FrameLog, FrameSource, Framed, Presented};
pub use kind::{Capacity, Endurance, Kind, KindName};
pub use lap::{Captured, LapBody, LapHead, LapName, Outcome, Produced, RecordedPass, Usage};
pub use load::{Broke, LoadOutcome, LoadRule, Loads, Strained};
pub use measure::{Better, Measure, Reading, SECONDS, TIME};
pub use mode::{Mode, ModeRule};
pub use name::plain_name;
pub use page::{LapPage, SessionPage, TaskForm};
pub use part::RigPart;
pub use pass::{Against, Display, Faults, Mark, Pass, Stretch};
pub use peak::{Peak, parse_rate, share_of_peak};
pub use picture::{Aspect, Picture, PicturesApart};
pub use plain::{is_hazard, plain_cell, plain_line, plain_lines};
pub use plain_json::PlainJson;
pub use remark::{Remark, RemarkKind, Subject};
pub use repeat::{EnduranceRule, Repeat};
pub use rig::RigFound;
pub use rules::{Find, ReadingRule, Source, SplitRule, Splits};
pub use sampled::{Sampled, TreeKept, TreeMemory, TreePeak, battery_energy};
pub use samples::Samples;
pub use session::{Origin, SessionAbout, SessionName, SessionRecord, VersionLine, is_rig_name};
pub use shell_text::{Standing, Unquotable, standings};
pub use study::{
    DEFAULT_MARGIN, Elsewhere, KEY_DIGITS, PublishedClaim, Rig, StatedPower, Study, Unsupported,
};
pub use template::{Template, TemplateError, Unfilled, is_name};
pub use trace::{MeterSum, Quantity, QuantitySummary, Trace, Traces};
pub(crate) use variant::by_name;
pub use variant::{Settings, Telling, variants};
pub use work::{Formula, Work};
pub use workload::{
    CACHE, COLD, Launch, MOST_PATTERN_BYTES, Meter, Product, Rest, Task, WARM, Workload,
};
