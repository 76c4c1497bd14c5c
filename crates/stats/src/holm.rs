//! Several questions at once: Holm's step-down adjustment.

/// Adjusts p values among themselves. Source: Holm 1979. Missing ones (None) stay out and are not
/// counted.
///
/// ```
/// use iron_twin_stats::holm::holm;
/// assert_eq!(holm(&[Some(0.01), None, Some(0.04)]), [Some(0.02), None, Some(0.04)]);
/// ```
#[must_use]
pub fn holm(p: &[Option<f64>]) -> Vec<Option<f64>> {
    let mut order: Vec<usize> = (0..p.len()).filter(|&i| p[i].is_some()).collect();
    order.sort_by(|&a, &b| p[a].unwrap_or(1.0).total_cmp(&p[b].unwrap_or(1.0)));
    let mut adjusted = vec![None; p.len()];
    let mut floor: f64 = 0.0;
    for (rank, &i) in order.iter().enumerate() {
        floor = floor
            .max((order.len() - rank) as f64 * p[i].unwrap_or(1.0))
            .min(1.0);
        adjusted[i] = Some(floor);
    }
    adjusted
}
