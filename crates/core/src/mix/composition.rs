//! What each treatment really gets: names of the match sheet looked up in Stores, and compared by
//! what is in them.
//!
//! A sheet may show one difference, the brand of a feed, and hide six: nitrogen, calcium, strength.
//! What the factor itself explains is not reported: feed against plain water, or doses of one feed.

use super::given::{Given, given, ingredients};
use crate::mix::recipe::Recipe;
use crate::stores::Stores;
use crate::trial::application::{Role, is_none};
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::rows::Row;
use crate::trial::sheet::{Basis, Sheet};
use iron_twin_chemistry::nutrients::Nutrient;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::capitalised;
use serde::Serialize;

/// A difference that the names do not show.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Hidden {
    /// What differs: nitrogen, EC, light on the leaves.
    pub what: &'static str,
    /// With figures and names.
    pub seen: String,
    /// How bad.
    pub severity: Severity,
}

/// What the sheet holds behind its names.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Composition {
    /// For each treatment, in the order of the sheet.
    pub given: Vec<Given>,
    /// Differences that the names do not show, worst first.
    pub hidden: Vec<Hidden>,
    /// Names in which treatments differ and of which nobody can say what is in them.
    pub unknown: Vec<String>,
    /// Feeds of different names that are one formula.
    pub one_formula: Vec<OneFormula>,
}

/// Two feeds that are one formula at their label doses.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OneFormula {
    /// One name.
    pub name: String,
    /// The other.
    pub other: String,
}

/// Amounts closer than this ratio are taken as alike: labels are rounded, and a scale is no better.
const ALIKE: f64 = 1.2;
/// Light closer than this ratio is taken as alike.
const ALIKE_LIGHT: f64 = 1.1;
/// Shares of urea closer than this are taken as alike.
const ALIKE_SHARE: f64 = 0.15;
/// Equal nitrogen, EC or cost is kept when amounts lie this close.
const KEPT: f64 = 1.1;

/// "six times", "half as much again": how a grower says a ratio above 1.
fn times(ratio: f64) -> String {
    match ratio {
        r if r < 1.35 => "a quarter more".into(),
        r if r < 1.75 => "half as much again".into(),
        r if r < 2.5 => "twice as much".into(),
        r if r < 9.5 => {
            let words = [
                "two", "three", "four", "five", "six", "seven", "eight", "nine",
            ];
            format!(
                "{} times as much",
                words[(r.round() as usize).clamp(2, 9) - 2]
            )
        }
        r if r.is_finite() => format!("{r:.0} times as much"),
        _ => "and the other none".into(),
    }
}

/// A quantity that two treatments may differ in without its being the factor.
struct Quantity {
    what: &'static str,
    unit: &'static str,
    of: fn(&Given) -> Option<f64>,
    /// Differences smaller than this are no matter, whatever the ratio.
    least: f64,
    alike: f64,
    /// Digits after the point.
    digits: usize,
}

const SOLUTION: [Quantity; 6] = [
    Quantity {
        what: "nitrogen",
        unit: "mg/L",
        of: |g| g.n_mg_per_l,
        least: 5.0,
        alike: ALIKE,
        digits: 0,
    },
    Quantity {
        what: "potassium",
        unit: "mg/L",
        of: |g| g.k_mg_per_l,
        least: 10.0,
        alike: ALIKE,
        digits: 0,
    },
    Quantity {
        what: "phosphorus",
        unit: "mg/L",
        of: |g| g.p_mg_per_l,
        least: 3.0,
        alike: ALIKE,
        digits: 0,
    },
    Quantity {
        what: "calcium",
        unit: "mg/L",
        of: |g| g.ca_mg_per_l,
        least: 10.0,
        alike: ALIKE,
        digits: 0,
    },
    Quantity {
        what: "magnesium",
        unit: "mg/L",
        of: |g| g.mg_mg_per_l,
        least: 4.0,
        alike: ALIKE,
        digits: 0,
    },
    Quantity {
        what: "EC",
        unit: "mS/cm",
        of: |g| g.ec_ms_per_cm,
        least: 0.15,
        alike: ALIKE,
        digits: 2,
    },
];

const LIGHT: Quantity = Quantity {
    what: "light on the leaves",
    unit: "µmol/m²/s",
    of: |g| g.ppfd_umol_per_m2_s,
    least: 5.0,
    alike: ALIKE_LIGHT,
    digits: 0,
};

impl Quantity {
    /// The two treatments of a list of pairs that lie furthest apart, where they differ at all.
    fn widest(
        &self,
        sheet: &Sheet,
        given: &[Given],
        pairs: &[(TreatmentIndex, TreatmentIndex)],
    ) -> Option<(f64, String)> {
        let gap = |&(a, b): &(TreatmentIndex, TreatmentIndex)| {
            let (low, high) = ((self.of)(&given[a])?, (self.of)(&given[b])?);
            let (a, b, low, high) = if low > high {
                (b, a, high, low)
            } else {
                (a, b, low, high)
            };
            // Less than half a milligram counts as none.
            let ratio = if low < 0.5 * 10f64.powi(-(self.digits as i32)) {
                f64::INFINITY
            } else {
                high / low
            };
            (high - low >= self.least && ratio >= self.alike).then_some((ratio, a, b, low, high))
        };
        let (ratio, a, b, low, high) = pairs
            .iter()
            .filter_map(gap)
            .max_by(|x, y| x.0.total_cmp(&y.0))?;
        let name = |t: TreatmentIndex| sheet.treatments[t].name.as_str();
        let (d, unit) = (self.digits, self.unit);
        let seen = format!(
            "{}: {high:.d$} {unit} in {}, {low:.d$} in {}, {}.",
            capitalised(self.what),
            name(b),
            name(a),
            times(ratio)
        );
        Some((ratio, seen))
    }
}

/// What two treatments differ in, of what is in their water.
struct Apart {
    /// What is given, by kind: whether its name differs, and whether its dose does.
    name: [bool; 2],
    dose: [bool; 2],
    water: bool,
}

impl Apart {
    fn of(sheet: &Sheet, a: TreatmentIndex, b: TreatmentIndex) -> Self {
        let mut apart = Self {
            name: [false; 2],
            dose: [false; 2],
            water: false,
        };
        for line in sheet.lines() {
            let kind = usize::from(line.role == Role::Additive);
            let tank = |t: TreatmentIndex| sheet.application(&line, t).filter(|x| x.how.in_tank());
            match (tank(a), tank(b)) {
                (Some(x), Some(y)) => {
                    apart.name[kind] |= !x.is_also(y);
                    apart.dose[kind] |= x.amount != y.amount;
                }
                (None, None) => {}
                _ => apart.name[kind] = true,
            }
        }
        let cell = |t: TreatmentIndex| sheet.value(t, "water").unwrap_or("").trim().to_lowercase();
        Self {
            water: cell(a) != cell(b),
            ..apart
        }
    }
}

/// Pairs of fed treatments whose solutions differ by more than the dose of one feed.
fn mixed_pairs(sheet: &Sheet) -> Vec<(TreatmentIndex, TreatmentIndex)> {
    sheet
        .pairs()
        .filter(|&(a, b)| {
            let Apart {
                name: [feeds, additives],
                dose: [feed_dose, additive_dose],
                water,
            } = Apart::of(sheet, a, b);
            let both_fed = sheet.gets(a, Role::Feed) && sheet.gets(b, Role::Feed);
            (feeds && both_fed)
                || (water && !feeds)
                || ((additives || additive_dose) && !feeds && !feed_dose)
        })
        .collect()
}

fn of_solutions(sheet: &Sheet, given: &[Given]) -> Vec<Hidden> {
    let pairs = mixed_pairs(sheet);
    // What the declared basis makes equal must be equal; what it leaves to the labels is said and
    // no more.
    let kept = match sheet.basis {
        Basis::EqualNitrogen => Some("nitrogen"),
        Basis::EqualEc => Some("EC"),
        Basis::LabelRate | Basis::EqualCost => None,
    };
    let feeds_differ = pairs.iter().any(|&(a, b)| Apart::of(sheet, a, b).name[0]);
    let mut list = Vec::new();
    for quantity in &SOLUTION {
        let alike = if kept == Some(quantity.what) {
            KEPT
        } else {
            quantity.alike
        };
        let quantity = &Quantity { alike, ..*quantity };
        if let Some((_, seen)) = quantity.widest(sheet, given, &pairs) {
            // Feeds compared at their label rates differ in what is in them; that is what was
            // asked.
            let by_label = feeds_differ && sheet.basis == Basis::LabelRate;
            let severity = if by_label || (kept.is_some() && kept != Some(quantity.what)) {
                Severity::Minor
            } else {
                Severity::Serious
            };
            list.push(Hidden {
                what: quantity.what,
                seen,
                severity,
            });
        }
    }
    list.extend(more_urea(sheet, given, &pairs));
    if sheet.basis == Basis::EqualCost {
        list.extend(dearer(sheet, given, &pairs));
    }
    list
}

/// The pair that differs most in how much of its nitrogen is urea.
fn more_urea(
    sheet: &Sheet,
    given: &[Given],
    pairs: &[(TreatmentIndex, TreatmentIndex)],
) -> Option<Hidden> {
    let urea = |&(a, b): &(TreatmentIndex, TreatmentIndex)| {
        let (x, y) = (given[a].urea_share?, given[b].urea_share?);
        ((x - y).abs() >= ALIKE_SHARE).then_some(if x > y { (a, x, b, y) } else { (b, y, a, x) })
    };
    let (a, x, b, y) = pairs
        .iter()
        .filter_map(urea)
        .max_by(|p, q| (p.1 - p.3).total_cmp(&(q.1 - q.3)))?;
    let name = |t: TreatmentIndex| sheet.treatments[t].name.as_str();
    Some(Hidden {
        what: "urea",
        seen: format!(
            "Of the nitrogen in {} {:.0} % is urea, in {} {:.0} %: a form that roots without \
                 soil use slowly.",
            name(a),
            100.0 * x,
            name(b),
            100.0 * y
        ),
        severity: Severity::Serious,
    })
}

/// Prices that are to be equal, and are not.
fn dearer(
    sheet: &Sheet,
    given: &[Given],
    pairs: &[(TreatmentIndex, TreatmentIndex)],
) -> Option<Hidden> {
    let cost = Quantity {
        what: "price of the solution",
        unit: "a litre",
        of: |g| g.price_per_l,
        least: 0.0,
        alike: KEPT,
        digits: 3,
    };
    let seen = cost.widest(sheet, given, pairs);
    seen.map(|(_, seen)| Hidden {
        what: cost.what,
        seen,
        severity: Severity::Serious,
    })
}

fn of_media(sheet: &Sheet, given: &[Given]) -> Option<Hidden> {
    let charged = |wanted: &str| {
        sheet
            .indices()
            .find(|t| given[*t].medium_charged.as_deref() == Some(wanted))
            .map(|t| sheet.value(t, "medium").unwrap_or(""))
    };
    let (yes, no) = (charged("yes")?, charged("no")?);
    Some(Hidden {
        what: "fertiliser in the medium",
        seen: format!(
            "{} comes charged with fertiliser, {no} does not.",
            capitalised(yes)
        ),
        severity: Severity::Serious,
    })
}

/// Whether two feeds are one formula: every figure alike once their label doses are.
fn one_formula(stores: &Stores, a: &str, b: &str) -> bool {
    let at_dose = |name: &str| -> Option<Vec<f64>> {
        let (ingredients, _) = ingredients(
            stores
                .parts("feeds", name)?
                .into_iter()
                .map(|p| (p, 1.0))
                .collect(),
        )?;
        let held = Recipe {
            ingredients,
            ..Recipe::default()
        }
        .solution()
        .ok()?
        .nutrients;
        Some(Nutrient::ALL.iter().map(|&n| held.get(n)).collect())
    };
    let (Some(x), Some(y)) = (at_dose(a), at_dose(b)) else {
        return false;
    };
    let most = x.iter().chain(&y).fold(0.0, |m: f64, v| m.max(*v));
    most > 0.0
        && x.iter()
            .zip(&y)
            .all(|(p, q)| (p - q).abs() <= 0.02 * p.max(*q) + 1e-4 * most)
}

/// Names, each once, without those that say "nothing".
fn once(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut list: Vec<String> = Vec::new();
    for name in names.filter(|n| !is_none(n)) {
        if !list.iter().any(|n| n.eq_ignore_ascii_case(&name)) {
            list.push(name);
        }
    }
    list
}

impl Sheet {
    /// What is behind the names of the sheet.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// use iron_twin_core::{stores::Stores, trial::feed::FeedPlan};
    /// let composition = Sheet::usual().composition(&Stores::with_own(Vec::new()), &FeedPlan::default());
    /// // Feed against plain water: all that differs is the factor itself.
    /// assert!(composition.hidden.is_empty() && composition.unknown.is_empty());
    /// assert!(composition.given[1].ec_ms_per_cm > composition.given[0].ec_ms_per_cm);
    /// ```
    #[must_use]
    pub fn composition(&self, stores: &Stores, plan: &FeedPlan) -> Composition {
        let given: Vec<Given> = self
            .indices()
            .map(|t| given(self, t, stores, plan))
            .collect();
        let mut hidden = of_solutions(self, &given);
        hidden.extend(of_media(self, &given));
        let all: Vec<_> = self.pairs().collect();
        let light = LIGHT.widest(self, &given, &all);
        hidden.extend(light.map(|(_, seen)| Hidden {
            what: LIGHT.what,
            seen,
            severity: Severity::Serious,
        }));
        hidden.sort_by_key(|h| std::cmp::Reverse(h.severity));
        // What all get alike cannot tell treatments apart, known or not.
        let telling = self.rows().into_iter().filter(Row::varies);
        let unknown = once(telling.flat_map(|row| row.cells.into_iter().flatten()));
        let unknown = unknown
            .into_iter()
            .filter(|n| given.iter().any(|g| g.unknown.contains(n)))
            .collect();
        let feeds = self
            .treatments
            .iter()
            .flat_map(|t| &t.applications)
            .filter(|a| a.role == Role::Feed);
        let feeds = once(feeds.map(|a| a.what.trim().to_owned()));
        let mut same = Vec::new();
        for (n, name) in feeds.iter().enumerate() {
            let others = feeds[n + 1..]
                .iter()
                .filter(|other| one_formula(stores, name, other));
            same.extend(others.map(|other| OneFormula {
                name: name.clone(),
                other: other.clone(),
            }));
        }
        Composition {
            given,
            hidden,
            unknown,
            one_formula: same,
        }
    }
}

#[cfg(test)]
#[path = "composition_tests.rs"]
mod tests;
