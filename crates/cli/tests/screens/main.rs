//! What needs a screen: programs that present frames, and the report in a browser.

mod page;
mod presented;
mod presenting_programs;
mod uncaptured;
