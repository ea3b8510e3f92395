//! What commands read, work out and print: the built `lap` on files in a temporary folder.
//!
//! One program for all of them, since each is linked with everything. Runs for about 80 s on two cores, of which the
//! demo's labs take most: `cargo test -p honest-lap --test commands plot` runs one file.

mod change;
mod demo;
mod export;
mod frames;
mod guide;
mod hand;
mod judgement;
mod keys;
mod lake;
mod less_work;
mod merging;
mod outputs;
mod paper;
mod plot;
mod reference;
mod report;
mod safe;
mod schema;
mod screens;
mod settings;
mod sheets;
mod studies;
mod writers;
