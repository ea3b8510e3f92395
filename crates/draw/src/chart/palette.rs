//! The product's own palette. Hue is never the only carrier of meaning: curves have dashes, marks
//! have shapes.

pub(super) const INK: &str = "#1d2b3a";
pub(super) const LAKE: &str = "#2f6f8f";
pub(super) const BRASS: &str = "#c08a2d";
pub(super) const MOSS: &str = "#5d7f4a";
pub(super) const CLAY: &str = "#b5563c";
pub(super) const PLUM: &str = "#7a4b78";
pub(super) const MIST: &str = "#e8ecef";
pub(super) const PAPER: &str = "#ffffff";
/// Brass, dark enough for text.
pub(super) const BUDGET_INK: &str = "#8a611b";
/// Text to be read second; 4.5:1 on paper.
pub(super) const GREY: &str = "#5b6773";

/// Hue and dashes of the curve at `place`: no two of the first twelve are alike.
pub(super) fn curve(place: usize) -> (&'static str, &'static str) {
    const HUES: [&str; 6] = [LAKE, CLAY, MOSS, PLUM, BRASS, INK];
    const DASHES: [&str; 4] = ["", "7 3", "2 3", "9 3 2 3"];
    (HUES[place % HUES.len()], DASHES[(place + place / HUES.len()) % DASHES.len()])
}
