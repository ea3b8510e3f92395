//! What needs a screen: programs that present frames, and the report in a browser.
//!
//! Runs for about 95 s on two cores: programs draw for seconds at a time.

mod guide;
mod hosts;
mod page;
mod presented;
mod presenting_programs;
mod uncaptured;
