//! Names beside points: each where it covers no other name, no point and no edge.

/// A box: left, top, right, bottom.
pub type Area = (f64, f64, f64, f64);

/// Returns whether two boxes share anything.
fn meet(a: &Area, b: &Area) -> bool {
    a.0 < b.2 && b.0 < a.2 && a.1 < b.3 && b.1 < a.3
}

/// Returns for each of `points` the left and top of its name, of the given width and all of one height,
/// within `bounds`. A name without a free place keeps away from its point until it has one.
pub fn places(
    points: &[(f64, f64)],
    widths: &[f64],
    height: f64,
    mark: f64,
    bounds: Area,
) -> Vec<(f64, f64)> {
    let mut taken: Vec<Area> =
        points.iter().map(|(x, y)| (x - mark, y - mark, x + mark, y + mark)).collect();
    let mut placed = Vec::new();
    for (&(x, y), &width) in points.iter().zip(widths) {
        let area = |(left, top): (f64, f64)| (left, top, left + width, top + height);
        let inside = |area: &Area| {
            area.0 >= bounds.0 && area.1 >= bounds.1 && area.2 <= bounds.2 && area.3 <= bounds.3
        };
        let free = |spot: &(f64, f64)| {
            let area = area(*spot);
            inside(&area) && !taken.iter().any(|other| meet(&area, other))
        };
        let around = |step: u32| {
            let far = mark + 4.0 + f64::from(step) * height;
            let (right, left) = (x + mark + 4.0, x - mark - 4.0 - width);
            let (above, below) = (y - far - height + mark, y + far - mark);
            [(right, above), (right, below), (left, above), (left, below), (x - width / 2.0, above)]
        };
        let spot = (0..60).flat_map(around).find(free);
        let spot = spot.unwrap_or_else(|| (x.min(bounds.2 - width), y));
        taken.push(area(spot));
        placed.push(spot);
    }
    placed
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_points_that_lie_together_keep_apart() {
        let points = [(50.0, 50.0), (52.0, 51.0), (51.0, 49.0), (195.0, 50.0)];
        let spots = places(&points, &[60.0; 4], 15.0, 6.0, (0.0, 0.0, 200.0, 200.0));
        let areas: Vec<Area> = spots.iter().map(|(x, y)| (*x, *y, x + 60.0, y + 15.0)).collect();
        for (at, area) in areas.iter().enumerate() {
            assert!(areas[at + 1..].iter().all(|other| !meet(area, other)), "{areas:?}");
            assert!(area.0 >= 0.0 && area.2 <= 200.0, "{areas:?}");
        }
    }
}
