//! Measures looked at beside the one that decides: what is left of their verdicts when all of them
//! are counted.

use super::result::{Analysis, Contrast};
use super::verdict::{Doubt, Verdict};
use crate::wording::in_hundred;
use iron_twin_stats::holm::holm;

/// Adjusts the secondary measures among themselves, treatment by treatment: each gets Holm's p, and
/// one that would claim a difference against it claims none. The measure that decides stands alone
/// and is not among them.
pub fn beside_one_another(secondary: &mut [Analysis]) {
    let names: Vec<String> = secondary.first().map_or_else(Vec::new, |a| {
        a.contrasts.iter().map(|c| c.treatment.clone()).collect()
    });
    for name in names {
        let mut own: Vec<(f64, &mut Contrast)> = secondary
            .iter_mut()
            .filter_map(|a| {
                let outside = 1.0 - a.confidence;
                a.contrasts
                    .iter_mut()
                    .find(|c| c.treatment == name)
                    .map(|c| (outside, c))
            })
            .collect();
        let p: Vec<Option<f64>> = own
            .iter()
            .map(|(_, c)| {
                c.closed_p
                    .or(c.simultaneous.as_ref().map_or(c.p, |s| Some(s.p)))
            })
            .collect();
        let all = p.iter().flatten().count();
        for ((outside, contrast), adjusted) in own.iter_mut().zip(holm(&p)) {
            contrast.p_holm = adjusted;
            if let Some(p) =
                adjusted.filter(|p| p >= outside && contrast.verdict.claims_difference())
            {
                told_as_open(contrast, all, p);
            }
        }
    }
}

fn told_as_open(contrast: &mut Contrast, all: usize, p: f64) {
    (contrast.verdict, contrast.doubt) = (Verdict::CannotTell, Some(Doubt::Several));
    contrast.claim = format!(
        "Can't tell {} from {}: of {all} measures looked at beside the one that decides, chance \
         brings one as far apart as this in {} of 100 trials.",
        contrast.treatment,
        contrast.versus,
        in_hundred(p)
    );
    contrast.brief = format!(
        "Can't tell {} from {}: of {all} measures, chance brings a gap as wide in {} of 100 \
         trials.",
        contrast.treatment,
        contrast.versus,
        in_hundred(p)
    );
    contrast.sentence = contrast.claim.clone();
    contrast.caveat = None;
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::analysis::analyse;
    use crate::question::Question;
    use crate::table::{Columns, read};

    /// Made so that the second of three secondary measures alone would be called better (p 0.039),
    /// and is not beside the others.
    const TABLE: &str = "t,a,b,c,d\nwater,44.1,44.3,53.3,38.5\nwater,49.3,38.7,55.5,51.0\nwater,56.8,47.5,52.0,48.6\nwater,46.3,50.7,43.7,48.2\nwater,53.5,50.3,47.9,60.9\nwater,50.3,47.1,50.8,47.4\nfeed,48.1,48.2,60.1,50.1\nfeed,50.9,53.4,60.1,48.9\nfeed,46.9,62.4,42.7,48.2\nfeed,53.3,61.4,45.3,37.9\nfeed,53.3,47.4,48.1,52.3\nfeed,51.1,51.5,47.8,56.4\n";

    fn of(measures: &[&str]) -> Vec<Analysis> {
        let each = measures.iter().map(|measure| {
            let columns = Columns {
                measure: (*measure).into(),
                treatment: "t".into(),
                control: "water".into(),
                ..Columns::default()
            };
            analyse(
                &read(TABLE.as_bytes(), &columns).unwrap(),
                &Question::default(),
            )
            .unwrap()
        });
        each.collect()
    }

    #[test]
    fn a_secondary_measure_is_judged_with_all_the_others() {
        let mut three = of(&["b", "c", "d"]);
        assert_eq!(three[0].contrasts[0].verdict, Verdict::Better, "by itself");
        let alone = three[0].contrasts[0].p.unwrap();
        beside_one_another(&mut three);
        let told = &three[0].contrasts[0];
        assert!((told.p_holm.unwrap() - 3.0 * alone).abs() < 1e-12 && told.p_holm.unwrap() > 0.05);
        assert_eq!(
            (told.verdict, told.doubt),
            (Verdict::CannotTell, Some(Doubt::Several))
        );
        assert_eq!(
            told.sentence,
            "Can't tell feed from water: of 3 measures looked at beside the one that decides, \
             chance brings one as far apart as this in 12 of 100 trials."
        );
        // A single one is not adjusted, and keeps its verdict.
        let mut one = of(&["b"]);
        beside_one_another(&mut one);
        assert_eq!(one[0].contrasts[0].verdict, Verdict::Better);
        assert_eq!(one[0].contrasts[0].p_holm, one[0].contrasts[0].p);
    }
}
