use super::Grid;

/// How evenly water lies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Uniformity {
    /// Distribution uniformity of the lower quarter, 0 to 1.
    pub du: f64,
    /// Christiansen's coefficient; below 0 where water lies on a few places only.
    pub cu: f64,
    /// Scheduling coefficient: mean over the driest window of 5 % of the area; infinite where that
    /// gets nothing.
    pub sc: f64,
    /// Mean of all cans, in their unit.
    pub mean: f64,
    /// Mean of the lowest quarter.
    pub low: f64,
}

/// Mean of the lowest quarter of catch data, and of all. None without data.
///
/// # Source
/// The lower-quarter distribution uniformity used in irrigation audits (Merriam and Keller 1978).
pub fn lower_quarter(catch: &[f32]) -> Option<(f64, f64)> {
    let n = catch.len();
    if n == 0 {
        return None;
    }
    let mean = catch.iter().map(|&c| f64::from(c)).sum::<f64>() / n as f64;
    let mut sorted = catch.to_vec();
    // A quarter of the cans, at least one.
    let quarter = (n / 4).max(1);
    sorted.select_nth_unstable_by(quarter - 1, f32::total_cmp);
    Some((sorted[..quarter].iter().map(|&c| f64::from(c)).sum::<f64>() / quarter as f64, mean))
}

/// 1 - mean absolute deviation / mean. None without water.
///
/// # Source
/// Christiansen, J. E. (1942), Irrigation by sprinkling, California Agr. Exp. Station Bulletin 670.
pub fn christiansen(catch: &[f32]) -> Option<f64> {
    let mean = catch.iter().map(|&c| f64::from(c)).sum::<f64>() / catch.len().max(1) as f64;
    (mean > 0.0).then(|| {
        1.0 - catch.iter().map(|&c| (f64::from(c) - mean).abs()).sum::<f64>() / catch.len() as f64 / mean
    })
}

/// The driest window: its cells and its mean.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Driest {
    pub col: usize,
    pub row: usize,
    pub side: usize,
    pub mean: f64,
}

/// DU, CU and SC of the cells of a grid that are `inside`. None where nothing lands on them.
pub fn uniformity(grid: &Grid, inside: &[bool], rate: &[f32]) -> Option<Uniformity> {
    with_window(grid, inside, rate).map(|(u, _)| u)
}

pub(super) fn with_window(grid: &Grid, inside: &[bool], rate: &[f32]) -> Option<(Uniformity, Driest)> {
    let catch: Vec<f32> = rate.iter().zip(inside).filter(|(_, i)| **i).map(|(r, _)| *r).collect();
    let (low, mean) = lower_quarter(&catch)?;
    let cu = christiansen(&catch)?;
    let driest = driest(grid, inside, rate, catch.len())?;
    Some((Uniformity { du: low / mean, cu, sc: mean / driest.mean, mean, low }, driest))
}

/// A square of 5 % of the cells slides over the ground; where the ground is ragged, what of it lies
/// inside counts, if that is most of it.
fn driest(grid: &Grid, inside: &[bool], rate: &[f32], cells: usize) -> Option<Driest> {
    let side = ((cells as f64 * 0.05).sqrt().round() as usize).clamp(1, grid.cols.min(grid.rows));
    let wide = grid.cols + 1;
    // Sums of everything below and to the left: any window in four looks.
    let (mut water, mut count) = (vec![0.0f64; wide * (grid.rows + 1)], vec![0u32; wide * (grid.rows + 1)]);
    for row in 0..grid.rows {
        for col in 0..grid.cols {
            let cell = row * grid.cols + col;
            let here = (row + 1) * wide + col + 1;
            let (w, c) = if inside[cell] { (f64::from(rate[cell]), 1) } else { (0.0, 0) };
            water[here] = w + water[here - 1] + water[here - wide] - water[here - wide - 1];
            count[here] = c + count[here - 1] + count[here - wide] - count[here - wide - 1];
        }
    }
    // Narrow ground may hold no window that is nearly full: then the fullest ones count.
    [0.75, 0.5, 0.25, 0.0].into_iter().find_map(|least| {
        let enough = ((side * side) as f64 * least).max(1.0) as u32;
        let mut best: Option<Driest> = None;
        for row in 0..=grid.rows - side {
            for col in 0..=grid.cols - side {
                let (a, b, c, d) = (
                    row * wide + col,
                    row * wide + col + side,
                    (row + side) * wide + col,
                    (row + side) * wide + col + side,
                );
                let n = count[d] + count[a] - count[b] - count[c];
                if n < enough {
                    continue;
                }
                let mean = ((water[d] + water[a] - water[b] - water[c]) / f64::from(n)).max(0.0);
                if best.is_none_or(|b| mean < b.mean) {
                    best = Some(Driest { col, row, side, mean });
                }
            }
        }
        best
    })
}
