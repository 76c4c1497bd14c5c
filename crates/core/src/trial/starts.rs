//! Starting sizes, and the classes of alike units formed from them.

use serde::{Deserialize, Serialize};

/// The starting size of what stands in one place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlotStart {
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
    /// Size, in any one unit: mm, g, leaves.
    pub size: f64,
}

/// Classes of units alike in size: sorted and sliced, `treatments` to a class, counted from the
/// smallest. None for places without a size, and for those left over where the number does not
/// divide.
///
/// Left out are those without which the classes are tightest in all. Neighbours in size make the
/// tightest classes there are: exchanging two units between slices can only widen them.
///
/// ```
/// use iron_twin_core::trial::starts::size_classes;
/// let sizes = [Some(31.0), Some(12.0), None, Some(30.0), Some(13.0), Some(60.0)];
/// assert_eq!(size_classes(&sizes, 2), [Some(1), Some(0), None, Some(1), Some(0), None]);
/// ```
#[must_use]
pub fn size_classes(sizes: &[Option<f64>], treatments: usize) -> Vec<Option<usize>> {
    let mut order: Vec<(f64, usize)> = sizes
        .iter()
        .enumerate()
        .filter_map(|(i, size)| size.filter(|s| s.is_finite()).map(|s| (s, i)))
        .collect();
    order.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    let mut classes = vec![None; sizes.len()];
    if treatments == 0 || order.len() < treatments {
        return classes;
    }
    let over = order.len() % treatments;
    // width[i][left]: the least total width of the classes from place i of the order on, with
    // `left` more left out.
    let mut width = vec![vec![f64::INFINITY; over + 1]; order.len() + 1];
    width[order.len()][0] = 0.0;
    let class_width = |i: usize| order[i + treatments - 1].0 - order[i].0;
    for i in (0..order.len()).rev() {
        for left in 0..=over {
            let leave = if left > 0 {
                width[i + 1][left - 1]
            } else {
                f64::INFINITY
            };
            let take = if i + treatments <= order.len() {
                class_width(i) + width[i + treatments][left]
            } else {
                f64::INFINITY
            };
            width[i][left] = leave.min(take);
        }
    }
    let (mut i, mut left, mut class) = (0, over, 0);
    while i + treatments <= order.len() {
        let take = class_width(i) + width[i + treatments][left];
        if left > 0 && width[i + 1][left - 1] < take {
            (i, left) = (i + 1, left - 1);
            continue;
        }
        order[i..i + treatments]
            .iter()
            .for_each(|(_, member)| classes[*member] = Some(class));
        (i, class) = (i + treatments, class + 1);
    }
    classes
}
