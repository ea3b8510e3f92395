//! The colours of roles, from the product's own palette as near as 256 colours come to it.

use super::sheet::Role;
use anstyle::{Ansi256Color, Style};

/// Returns how text in `role` looks on a terminal that shows colour.
pub fn style(role: Role) -> Style {
    // The grey has a contrast of 4.5:1 on white and on black alike; dimming shows on few terminals.
    let (lake, brass, moss, clay, grey) = (31, 136, 65, 131, 243);
    let hue = |number: u8| Style::new().fg_color(Some(Ansi256Color(number).into()));
    match role {
        Role::Plain => Style::new(),
        Role::Heading => hue(lake).bold(),
        Role::Quiet => hue(grey),
        Role::Better => hue(moss),
        Role::Worse => hue(clay),
        Role::Open => hue(brass),
        Role::Failed => hue(clay).bold(),
    }
}
