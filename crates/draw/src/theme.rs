//! The colours of roles, from the product's own palette as near as 256 colours come to it.

use crate::sheet::Role;
use anstyle::{Ansi256Color, Style};

/// Returns how text in `role` looks on a terminal that shows colour.
pub fn style(role: Role) -> Style {
    let (lake, brass, moss, clay) = (31, 136, 65, 131);
    let hue = |number: u8| Style::new().fg_color(Some(Ansi256Color(number).into()));
    match role {
        Role::Plain => Style::new(),
        Role::Heading => hue(lake).bold(),
        Role::Quiet => Style::new().dimmed(),
        Role::Better => hue(moss),
        Role::Worse => hue(clay),
        Role::Open => hue(brass),
        Role::Failed => hue(clay).bold(),
    }
}
