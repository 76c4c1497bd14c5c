//! What is judged on stated days, and when it was read.

use crate::trial::Trial;
use crate::trial::records::UnitRecords;

/// What is judged on a stated day, once it is past.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JudgedDay {
    /// The measure, as a grower says it.
    pub name: &'static str,
    /// The day.
    pub day: u32,
    /// Units that stood then.
    pub units: usize,
    /// Units read on that very day.
    pub on_day: usize,
    /// Units whose figure is of a day beside it.
    pub beside: usize,
    /// Units without a figure.
    pub missing: usize,
}

/// What is judged on stated days that are past: a reading may still come on the day after.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Vec<JudgedDay> {
    let past = |day: u32| {
        trial.reveal.is_some() || today.is_some_and(|today| today > day + UnitRecords::DAYS_BESIDE)
    };
    let judged = trial
        .plan
        .ask
        .judged()
        .into_iter()
        .filter_map(|j| Some((j.measure, j.day.filter(|d| past(*d))?)));
    let mut found = Vec::new();
    for (measure, day) in judged {
        let mut of = JudgedDay {
            name: measure.name,
            day,
            units: 0,
            on_day: 0,
            beside: 0,
            missing: 0,
        };
        for (i, _) in trial
            .each_unit()
            .filter(|(_, u)| u.lost.is_none() && trial.is_now(u))
        {
            of.units += 1;
            let key = measure.source.needs()[0];
            let mut days = trial.plan.ask.parts().flat_map(|crop| {
                trial
                    .plan
                    .ask
                    .samples()
                    .filter_map(move |s| Some(trial.of_unit(i).on(key, crop, s, day)?.0))
            });
            match days.next() {
                None => of.missing += 1,
                Some(first) if first == day && days.all(|d| d == day) => of.on_day += 1,
                Some(_) => of.beside += 1,
            }
        }
        found.push(of);
    }
    found
}
