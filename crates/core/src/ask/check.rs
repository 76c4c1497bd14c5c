//! Whether a question can be answered as asked.

use super::worth;
use crate::catalogue::measures;
use crate::trial::question::{Ask, MOST_CROPS, MOST_DAYS, MOST_JUDGED, MOST_LOOKS, MOST_SAMPLES};
use crate::trial::waves::{MOST_CUT_MM, MOST_GRADES};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;

/// What is wrong with what was asked.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum AskError {
    /// No such measure.
    #[error("there is no measure '{0}'")]
    UnknownMeasure(String),
    /// The end lies before the start or beyond all reason.
    #[error("the last day must lie between 1 and {MOST_DAYS}, got {0}")]
    EndDay(u32),
    /// A measure of whole units where crops are compared inside them.
    #[error("{0} is of the unit as a whole and cannot be told crop by crop")]
    OfWholeUnit(&'static str),
    /// A margin that says nothing about the measure.
    #[error("{measure} takes a margin {wanted}")]
    MarginKind {
        /// The measure.
        measure: &'static str,
        /// What it takes.
        wanted: &'static str,
    },
    /// Crops inside a unit that are none, one, too many or twice the same.
    #[error("name 2 to {MOST_CROPS} different crops that share a unit, or none")]
    CropsInside,
    /// Samples that are none or one, too many, or of several crops.
    #[error(
        "follow 2 to {MOST_SAMPLES} samples in each unit, or none; crops that share a unit are \
         followed as a whole"
    )]
    SamplesInside,
    /// Grades or a height to cut at that cannot be.
    #[error(
        "name at most {MOST_GRADES} different grades, with prices that are none or above zero; a \
         cut is between 0 and {MOST_CUT_MM} mm"
    )]
    Waves,
    /// Waves of plants that are weighed one by one.
    #[error("what is cut or picked several times is weighed as a whole, not plant by plant")]
    WavesBySample,
    /// Nothing to weigh one by one.
    #[error("plants are weighed one by one where several are followed in each unit; say how many")]
    WeighSamples,
    /// A day for what is not read on one.
    #[error("{0} is not read on a day: it is judged by what the whole trial gave")]
    NotOfADay(&'static str),
    /// Days that cannot be.
    #[error(
        "{measure} can be judged on 1 to {MOST_JUDGED} days between 1 and the last, {end_day}, \
         each once"
    )]
    JudgedDays {
        /// The measure.
        measure: &'static str,
        /// The last day.
        end_day: u32,
    },
    /// Two measures with one column.
    #[error("two measures of your own are both called {0}; call one of them otherwise")]
    SameName(&'static str),
    /// Looks at what is not there before the end.
    #[error("{0} is there only at the end: there is nothing to look at before")]
    NothingToLookAt(&'static str),
    /// Looks on days that cannot be.
    #[error(
        "looks are planned on at most {MOST_LOOKS} days between 1 and the last, {0}, each once"
    )]
    LooksOn(u32),
    /// A price or usual yield that is none.
    #[error("{0} must be a number above zero")]
    NotAbove(&'static str),
    /// Money without a price, or for a measure that is not sold by weight.
    #[error("a margin in money wants a price a kg, and a primary measure in grams")]
    NoPrice,
    /// A margin that is not above zero.
    #[error("the margin must be above zero, for instance 10 %")]
    Margin,
}

impl Ask {
    fn check_crops(&self) -> Result<(), AskError> {
        let names: std::collections::HashSet<String> = self
            .crops_inside
            .iter()
            .map(|c| c.trim().to_lowercase())
            .filter(|c| !c.is_empty())
            .collect();
        let number = self.crops_inside.len();
        let fit = number == 0 || ((2..=MOST_CROPS).contains(&number) && names.len() == number);
        if fit {
            Ok(())
        } else {
            Err(AskError::CropsInside)
        }
    }

    /// Days of judgement lie between sowing and harvest, and belong to measures that are read on a
    /// day.
    fn check_days(&self) -> Result<(), AskError> {
        for (key, days) in &self.judged_on {
            let measure =
                measures::find(key).ok_or_else(|| AskError::UnknownMeasure(key.clone()))?;
            if !measure.source.is_of_a_day() {
                return Err(AskError::NotOfADay(measure.name));
            }
            let rising = days.windows(2).all(|w| w[0] < w[1]);
            if !rising
                || days.is_empty()
                || days.len() > MOST_JUDGED
                || days.iter().any(|d| !(1..=self.end_day).contains(d))
            {
                return Err(AskError::JudgedDays {
                    measure: measure.name,
                    end_day: self.end_day,
                });
            }
        }
        Ok(())
    }

    /// Checks what can be checked before anything is sown.
    ///
    /// # Errors
    /// [`AskError`], naming the field.
    pub fn check(&self) -> Result<(), AskError> {
        let find =
            |key: &String| measures::find(key).ok_or_else(|| AskError::UnknownMeasure(key.clone()));
        let primary = find(&self.primary_measure)?;
        self.also.iter().try_for_each(|key| find(key).map(|_| ()))?;
        let mut columns = std::collections::HashMap::new();
        let unlike = |m: &&measures::Measure| {
            columns
                .insert(m.column(), m.key)
                .is_some_and(|other| other != m.key)
        };
        if let Some(twice) = self.measures().into_iter().find(unlike) {
            return Err(AskError::SameName(twice.name));
        }
        let whole = self
            .measures()
            .into_iter()
            .find(|m| m.source.of_whole_unit());
        if let Some(measure) = whole.filter(|_| !self.crops_inside.is_empty()) {
            return Err(AskError::OfWholeUnit(measure.name));
        }
        if !primary.takes(self.margin) {
            let wanted = match primary.kind {
                Kind::Score => "such as 0.1: 60 of 100 pairings instead of 50",
                _ => "in per cent, such as 20 %",
            };
            return Err(AskError::MarginKind {
                measure: primary.name,
                wanted,
            });
        }
        if !(1..=MOST_DAYS).contains(&self.end_day) {
            return Err(AskError::EndDay(self.end_day));
        }
        self.check_crops()?;
        self.check_days()?;
        self.check_looks(primary)?;
        self.check_samples()?;
        self.check_figures()?;
        if worth::settled(self).is_none() {
            return Err(AskError::NoPrice);
        }
        match self.margin.to_string().parse::<Margin>() {
            Ok(_) => Ok(()),
            Err(_) => Err(AskError::Margin),
        }
    }

    /// Looks before the end lie before it, in order, and see something.
    fn check_looks(&self, primary: &measures::Measure) -> Result<(), AskError> {
        let looks = &self.looks_on;
        if !looks.is_empty() && primary.source.is_weighed() {
            return Err(AskError::NothingToLookAt(primary.name));
        }
        if looks.len() > MOST_LOOKS
            || looks.windows(2).any(|w| w[0] >= w[1])
            || looks.iter().any(|day| !(1..self.end_day).contains(day))
        {
            return Err(AskError::LooksOn(self.end_day));
        }
        Ok(())
    }

    /// Samples and waves are of a number that can be, and do not go together.
    fn check_samples(&self) -> Result<(), AskError> {
        if self.waves.as_ref().is_some_and(|waves| !waves.holds()) {
            return Err(AskError::Waves);
        }
        if self.waves.is_some() && self.weigh_samples {
            return Err(AskError::WavesBySample);
        }
        let samples = self.samples_inside;
        if self.weigh_samples && samples == 0 {
            return Err(AskError::WeighSamples);
        }
        if samples == 1 || samples > MOST_SAMPLES || (samples > 0 && !self.crops_inside.is_empty())
        {
            return Err(AskError::SamplesInside);
        }
        Ok(())
    }

    /// Figures that are given are above none.
    fn check_figures(&self) -> Result<(), AskError> {
        let figures = [
            ("the price", self.price_per_kg),
            ("the usual yield", self.usual_per_unit),
            ("the number counted", self.usual_out_of),
            ("the margin", self.margin_money),
        ];
        if let Some((what, _)) = figures
            .iter()
            .find(|(_, v)| v.is_some_and(|v| !(v.is_finite() && v > 0.0)))
        {
            return Err(AskError::NotAbove(what));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::records::CropNumber;
    use crate::trial::waves::Waves;

    #[test]
    fn defaults_hold_and_slips_are_named() {
        assert_eq!(Ask::default().check(), Ok(()));
        let with = |change: fn(&mut Ask)| {
            let mut ask = Ask::default();
            change(&mut ask);
            ask.check().unwrap_err()
        };
        assert_eq!(with(|a| a.end_day = 0), AskError::EndDay(0));
        assert_eq!(
            with(|a| a.margin = Margin::Percent(f64::NAN)),
            AskError::Margin
        );
        assert!(matches!(
            with(|a| a.also.push("luck".into())),
            AskError::UnknownMeasure(_)
        ));
        let twice = with(|a| {
            a.also.extend(
                ["own;count;Gloss;;0;9;higher", "own;count;gloss;;0;9;lower"].map(str::to_owned),
            )
        });
        assert_eq!(twice, AskError::SameName("gloss"));
        let counted = with(|a| {
            a.primary_measure = "leaf_count".into();
            a.margin = Margin::Absolute(5.0);
        });
        assert!(
            counted
                .to_string()
                .contains("leaves takes a margin in per cent"),
            "{counted}"
        );
        assert!(matches!(
            with(|a| a.primary_measure = "luck".into()),
            AskError::UnknownMeasure(_)
        ));
        assert_eq!(
            with(|a| a.crops_inside = vec!["basil".into()]),
            AskError::CropsInside
        );
        let shared = with(|a| {
            a.also.push("water_used".into());
            a.crops_inside = vec!["basil".into(), "dill".into()];
        });
        assert_eq!(shared, AskError::OfWholeUnit("water used"));
        assert_eq!(
            with(|a| a.crops_inside = vec!["basil".into(), "Basil ".into()]),
            AskError::CropsInside
        );
        assert_eq!(with(|a| a.samples_inside = 1), AskError::SamplesInside);
        assert_eq!(with(|a| a.weigh_samples = true), AskError::WeighSamples);
        assert_eq!(
            with(|a| a.waves = Some(Waves {
                cut_mm: Some(0.0),
                ..Waves::default()
            })),
            AskError::Waves
        );
        let by_plant = |a: &mut Ask| {
            (a.waves, a.samples_inside, a.weigh_samples) = (Some(Waves::default()), 3, true)
        };
        assert_eq!(with(by_plant), AskError::WavesBySample);
        assert_eq!(
            with(|a| _ = a.judged_on.insert("harvest_weight".into(), vec![5])),
            AskError::NotOfADay("harvest weight")
        );
        for days in [
            vec![],
            vec![0],
            vec![5, 5],
            vec![13],
            vec![9, 5],
            (1..=9).collect(),
        ] {
            let mut ask = Ask::default();
            ask.judged_on.insert("height".into(), days);
            assert_eq!(
                ask.check(),
                Err(AskError::JudgedDays {
                    measure: "height",
                    end_day: 12
                })
            );
        }
        assert_eq!(
            with(|a| a.samples_inside = MOST_SAMPLES + 1),
            AskError::SamplesInside
        );
        assert_eq!(
            with(|a| a.price_per_kg = Some(f64::NAN)),
            AskError::NotAbove("the price")
        );
        assert_eq!(with(|a| a.margin_money = Some(1.0)), AskError::NoPrice);
    }

    #[test]
    fn crops_of_a_unit_share_its_solution() {
        let crops = vec!["basil".to_owned(), "dill".to_owned(), "rocket".to_owned()];
        let ask = Ask {
            crops_inside: crops,
            ..Ask::default()
        };
        let walked: Vec<String> = ask
            .columns()
            .iter()
            .map(|(r, part)| format!("{}{}", r.key, part.map_or(0, CropNumber::get)))
            .collect();
        assert_eq!(walked, ["ph0", "ec0", "height1", "height2", "height3"]);
        let name = |number| ask.crop_inside(CropNumber::new(number));
        assert_eq!((name(2), name(0), name(4)), (Some("dill"), None, None));
        assert_eq!(Ask::default().parts().collect::<Vec<_>>(), [None]);
        let water = Ask {
            primary_measure: "harvest_per_litre".into(),
            also: Vec::new(),
            ..ask
        };
        let walked: Vec<String> = water
            .columns()
            .iter()
            .map(|(r, part)| format!("{}{}", r.key, part.map_or(0, CropNumber::get)))
            .collect();
        assert_eq!(
            walked,
            [
                "ph0",
                "ec0",
                "level0",
                "filled0",
                "water_added0",
                "solution_added0",
                "feed_added0"
            ]
        );
    }
}
