//! Starting sizes: blocks of alike units formed from them, and how evenly a deal shares them.

use super::deal::deal;
use super::{Position, Rack, RackDesign};
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

/// Classes of units alike in size: sorted and sliced, `treatments` to a class, counted from the smallest. None for places
/// without a size, and for those left over where the number does not divide.
///
/// Left out are those without which the classes are tightest in all. Neighbours in size make the tightest classes there
/// are: exchanging two units between slices can only widen them.
///
/// ```
/// use iron_twin_core::place::starts::size_classes;
/// let sizes = [Some(31.0), Some(12.0), None, Some(30.0), Some(13.0), Some(60.0)];
/// assert_eq!(size_classes(&sizes, 2), [Some(1), Some(0), None, Some(1), Some(0), None]);
/// ```
#[must_use]
pub fn size_classes(sizes: &[Option<f64>], treatments: usize) -> Vec<Option<usize>> {
    let mut order: Vec<(f64, usize)> =
        sizes.iter().enumerate().filter_map(|(i, size)| size.filter(|s| s.is_finite()).map(|s| (s, i))).collect();
    order.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    let mut classes = vec![None; sizes.len()];
    if treatments == 0 || order.len() < treatments {
        return classes;
    }
    let over = order.len() % treatments;
    // width[i][left]: the least total width of the classes from place i of the order on, with `left` more left out.
    let mut width = vec![vec![f64::INFINITY; over + 1]; order.len() + 1];
    width[order.len()][0] = 0.0;
    let class_width = |i: usize| order[i + treatments - 1].0 - order[i].0;
    for i in (0..order.len()).rev() {
        for left in 0..=over {
            let leave = if left > 0 { width[i + 1][left - 1] } else { f64::INFINITY };
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
        order[i..i + treatments].iter().for_each(|(_, member)| classes[*member] = Some(class));
        (i, class) = (i + treatments, class + 1);
    }
    classes
}

/// Largest gap between treatments' mean starting sizes, per cent of the mean of all; None unless every unit has a size.
#[must_use]
pub fn gap_percent(rack: &Rack, units: &[(Position, usize)], treatments: usize) -> Option<f64> {
    let mut sums = vec![(0.0, 0usize); treatments];
    for (position, treatment) in units {
        let size = rack.start_of(*position)?;
        let own = sums.get_mut(*treatment)?;
        *own = (own.0 + size, own.1 + 1);
    }
    let all: f64 = sums.iter().map(|s| s.0).sum::<f64>() / units.len() as f64;
    let means: Option<Vec<f64>> = sums.into_iter().map(|(sum, n)| (n > 0).then(|| sum / n as f64)).collect();
    let means = means?;
    let (least, most) = means.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), &x| (l.min(x), m.max(x)));
    (all > 0.0).then(|| 100.0 * (most - least) / all)
}

/// How wide the gap between mean starting sizes usually comes out by one design: the mean of so many deals.
const DEALS: u64 = 200;

/// What a design makes of the starting sizes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StartBalance {
    /// Gap between treatments' mean starting sizes in this deal, per cent of the mean; None before the deal.
    pub gap_percent: Option<f64>,
    /// The gap that a deal inside levels usually leaves.
    pub by_level_percent: Option<f64>,
    /// The gap that a deal inside classes of alike size usually leaves.
    pub by_size_percent: Option<f64>,
}

/// The gap of this deal, beside what deals inside levels and inside size classes usually leave; None without sizes.
#[must_use]
pub fn balance(rack: &Rack, units: &[(Position, usize)], treatments: usize) -> Option<StartBalance> {
    if rack.starts.iter().all(Option::is_none) {
        return None;
    }
    let usual = |design: RackDesign| {
        let rack = Rack { design, within_percent: None, ..rack.clone() };
        let gaps: Option<Vec<f64>> = (0..DEALS)
            .map(|seed| {
                let dealt: Vec<_> =
                    deal(&rack, treatments, seed).ok()?.iter().map(|u| (u.position, u.treatment)).collect();
                gap_percent(&rack, &dealt, treatments)
            })
            .collect();
        gaps.map(|gaps| gaps.iter().sum::<f64>() / gaps.len() as f64)
    };
    Some(StartBalance {
        gap_percent: if units.is_empty() { None } else { gap_percent(rack, units, treatments) },
        by_level_percent: usual(RackDesign::Blocks),
        by_size_percent: usual(RackDesign::BySize),
    })
}

#[cfg(test)]
mod tests {
    use super::super::RackError;
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// A naive twin: no other choice of classes of two is tighter in all than neighbours in size.
        #[test]
        fn neighbours_in_size_make_the_tightest_pairs(sizes in proptest::collection::vec(1.0f64..100.0, 2..9)) {
            let classes = size_classes(&sizes.iter().map(|s| Some(*s)).collect::<Vec<_>>(), 2);
            let pairs = sizes.len() / 2;
            let width: f64 = (0..pairs)
                .map(|class| {
                    let own: Vec<f64> =
                        sizes.iter().zip(&classes).filter(|(_, c)| **c == Some(class)).map(|(s, _)| *s).collect();
                    (own[0] - own[1]).abs()
                })
                .sum();
            fn best(left: &[f64], pairs: usize) -> f64 {
                if pairs == 0 { return 0.0; }
                let mut least = f64::INFINITY;
                for i in 0..left.len() {
                    for j in i + 1..left.len() {
                        let rest: Vec<f64> =
                            left.iter().enumerate().filter(|(k, _)| *k != i && *k != j).map(|(_, s)| *s).collect();
                        least = least.min((left[i] - left[j]).abs() + best(&rest, pairs - 1));
                    }
                }
                least
            }
            prop_assert!((width - best(&sizes, pairs)).abs() < 1e-9, "{width}");
        }
    }

    fn rack(sizes: &[f64]) -> Rack {
        let starts = sizes.iter().map(|s| Some(*s)).collect();
        Rack { levels: 2, slots: sizes.len() as u32 / 2, starts, design: RackDesign::BySize, ..Rack::default() }
    }

    #[test]
    fn a_class_holds_every_treatment_once_and_size_balances_better_than_place() {
        let rack = rack(&[10.0, 52.0, 21.0, 40.0, 12.0, 50.0, 20.0, 44.0]);
        let units = deal(&rack, 2, 4).unwrap();
        assert_eq!((units.len(), rack.units_each(2), rack.blocks(2)), (8, 4, 4));
        for class in 0..4 {
            let name = format!("size class {}", class + 1);
            let own: Vec<usize> = units
                .iter()
                .filter(|u| rack.block_of(u.position, 2).as_deref() == Some(&name))
                .map(|u| u.treatment)
                .collect();
            assert!(own == [0, 1] || own == [1, 0], "{own:?}");
        }
        let dealt: Vec<_> = units.iter().map(|u| (u.position, u.treatment)).collect();
        let said = balance(&rack, &dealt, 2).unwrap();
        assert!(said.by_size_percent.unwrap() < 0.5 * said.by_level_percent.unwrap(), "{said:?}");
        assert_eq!(said.gap_percent, gap_percent(&rack, &dealt, 2));
        assert_eq!(balance(&Rack::default(), &[], 2), None);
    }

    #[test]
    fn a_deal_keeps_to_its_bound_and_says_where_it_cannot() {
        let bound = Rack {
            design: RackDesign::Blocks,
            within_percent: Some(6.0),
            ..rack(&[10.0, 52.0, 21.0, 40.0, 12.0, 50.0, 20.0, 44.0])
        };
        for seed in 0..50 {
            let dealt: Vec<_> = deal(&bound, 2, seed).unwrap().iter().map(|u| (u.position, u.treatment)).collect();
            assert!(gap_percent(&bound, &dealt, 2).unwrap() <= 6.0);
        }
        let never = Rack { within_percent: Some(1e-6), ..bound.clone() };
        assert!(matches!(deal(&never, 2, 1), Err(RackError::NeverWithin { .. })));
        let blank = Rack { starts: vec![Some(3.0), None], ..bound };
        assert_eq!(deal(&blank, 2, 1), Err(RackError::NoStarts));
    }
}
