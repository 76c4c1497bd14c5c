//! Starting sizes: blocks of alike units formed from them, and how evenly a deal shares them.

use crate::place::deal::deal;
use crate::place::placed::{gap_of, gap_percent};
use crate::trial::space::{Position, Rack, RackDesign};
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// How wide the gap between mean starting sizes usually comes out by one design: the mean of so
/// many deals.
const DEALS: u64 = 200;

/// What a design makes of the starting sizes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StartBalance {
    /// Gap between treatments' mean starting sizes in this deal, per cent of the mean; None before
    /// the deal.
    pub gap_percent: Option<f64>,
    /// The gap that a deal inside levels usually leaves.
    pub by_level_percent: Option<f64>,
    /// The gap that a deal inside classes of alike size usually leaves.
    pub by_size_percent: Option<f64>,
}

/// The gap of this deal, beside what deals inside levels and inside size classes usually leave;
/// None without sizes.
#[must_use]
pub fn balance(
    rack: &Rack,
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
) -> Option<StartBalance> {
    if rack.starts.iter().all(Option::is_none) {
        return None;
    }
    let usual = |design: RackDesign| {
        let rack = Rack {
            design,
            ..rack.clone()
        };
        usual_gap_percent(&rack, treatments, &|p| rack.start_of(p))
    };
    Some(StartBalance {
        gap_percent: if units.is_empty() {
            None
        } else {
            gap_percent(rack, units, treatments)
        },
        by_level_percent: usual(RackDesign::Blocks),
        by_size_percent: usual(RackDesign::BySize),
    })
}

/// How far apart the treatments' means of a figure of places usually come out, in per cent of the
/// mean: the mean of so many deals without a bound, not this one's. None where a place has no
/// figure.
#[must_use]
pub fn usual_gap_percent(
    rack: &Rack,
    treatments: usize,
    figure: &dyn Fn(Position) -> Option<f64>,
) -> Option<f64> {
    // A bound would be sought anew for each of the deals, thousands of draws at a time; what they
    // are without it is asked.
    let rack = &Rack {
        within_percent: None,
        ..rack.clone()
    };
    let mut gaps = 0.0;
    for seed in 0..DEALS {
        let dealt: Vec<_> = deal(rack, treatments, seed)
            .ok()?
            .iter()
            .map(|u| (u.position, u.treatment))
            .collect();
        gaps += gap_of(&dealt, treatments, figure)?;
    }
    Some(gaps / DEALS as f64)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::space::error::RackError;
    use crate::trial::starts::size_classes;
    use proptest::prelude::*;

    proptest! {
        /// A naive twin: no other choice of classes of two is tighter in all than neighbours in
        /// size.
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
        Rack {
            levels: 2,
            slots: sizes.len() as u32 / 2,
            starts,
            design: RackDesign::BySize,
            ..Rack::default()
        }
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
                .map(|u| u.treatment.get())
                .collect();
            assert!(own == [0, 1] || own == [1, 0], "{own:?}");
        }
        let dealt: Vec<_> = units.iter().map(|u| (u.position, u.treatment)).collect();
        let said = balance(&rack, &dealt, 2).unwrap();
        assert!(
            said.by_size_percent.unwrap() < 0.5 * said.by_level_percent.unwrap(),
            "{said:?}"
        );
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
            let dealt: Vec<_> = deal(&bound, 2, seed)
                .unwrap()
                .iter()
                .map(|u| (u.position, u.treatment))
                .collect();
            assert!(gap_percent(&bound, &dealt, 2).unwrap() <= 6.0);
        }
        let never = Rack {
            within_percent: Some(1e-6),
            ..bound.clone()
        };
        assert!(matches!(
            deal(&never, 2, 1),
            Err(RackError::NeverWithin { .. })
        ));
        let blank = Rack {
            starts: vec![Some(3.0), None],
            ..bound
        };
        assert_eq!(deal(&blank, 2, 1), Err(RackError::NoStarts));
    }
}
