//! An index: several ratios weighed into one.

use super::{LogRatio, StatError};

/// Returns the weighted geometric mean of ratios, with its standard error.
///
/// ```text
/// L = Σ wⱼ·dⱼ / Σ w        se² = Σ (wⱼ/Σw)²·seⱼ²        df = se⁴ / Σ over all cells ((wⱼ/Σw)²·v)² / ν
/// ```
/// where each ratio is made of cells that have a squared standard error v with ν degrees of freedom
/// each, given in [`Part::cells`]. The index is exp(L); d = ln of the ratio.
///
/// * Shape: at least one part, each with a weight above zero. O(n).
/// * Units: none.
/// * Errors: [`StatError::Empty`]; [`StatError::OutOfRange`] for a weight not above zero.
/// * Source: the geometric mean of ratios, Fleming and Wallace (1986),
///   <https://doi.org/10.1145/5666.5673>; degrees of freedom by Satterthwaite (1946),
///   <https://doi.org/10.2307/3002019>.
pub fn index(parts: &[Part]) -> Result<LogRatio, StatError> {
    if parts.is_empty() {
        return Err(StatError::Empty);
    }
    if let Some(part) = parts.iter().find(|part| !(part.weight > 0.0 && part.weight.is_finite())) {
        return Err(StatError::OutOfRange { name: "weight", value: part.weight });
    }
    let whole: f64 = parts.iter().map(|part| part.weight).sum();
    let (mut log, mut squared, mut below) = (0.0, 0.0, 0.0);
    for part in parts {
        let share = part.weight / whole;
        log += share * part.log;
        for cell in &part.cells {
            let variance = share.powi(2) * cell.variance;
            squared += variance;
            below += variance.powi(2) / cell.freedom;
        }
    }
    let freedom: f64 = parts.iter().flat_map(|part| &part.cells).map(|cell| cell.freedom).sum();
    // Nothing spreads: any degrees of freedom do.
    let df = if below > 0.0 { squared.powi(2) / below } else { freedom.max(1.0) };
    Ok(LogRatio { log, se: squared.sqrt(), df })
}

/// One ratio of an index.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// How much it weighs.
    pub weight: f64,
    /// Its natural log.
    pub log: f64,
    /// What its standard error is made of.
    pub cells: Vec<CellError>,
}

/// A cell's share in a standard error.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CellError {
    /// The squared standard error of its mean log.
    pub variance: f64,
    /// The degrees of freedom of that.
    pub freedom: f64,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn part(weight: f64, ratio: f64) -> Part {
        let cells = vec![CellError { variance: 1e-4, freedom: 4.0 }; 2];
        Part { weight, log: ratio.ln(), cells }
    }

    #[test]
    fn it_is_the_weighted_geometric_mean() {
        let found = index(&[part(3.0, 2.0), part(1.0, 0.5)]).unwrap();
        assert!((found.ratio() - 2f64.powf(0.5)).abs() < 1e-12);
        // ((3/4)² + (1/4)²)·2e-4
        assert!((found.se.powi(2) - 0.625 * 2e-4).abs() < 1e-15);
        assert!(found.df > 8.0 && found.df < 16.0);
    }

    #[test]
    fn a_weight_of_nothing_and_an_index_of_nothing_are_refused() {
        assert_eq!(index(&[]), Err(StatError::Empty));
        assert!(index(&[part(0.0, 1.0)]).is_err());
    }
}
