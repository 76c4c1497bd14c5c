//! What is given to a treatment: what, how, how much and when. The tank, the calendar, the spend,
//! the match check and the pouring sheet read this and nothing else.

use super::feed::MOST_ML_A_UNIT;
use serde::{Deserialize, Serialize};

/// One thing that is given.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Application {
    /// Feed or additive: the shelf of Stores on which its name is looked up.
    pub role: Role,
    /// An entry of Stores, or the grower's own words.
    pub what: String,
    /// How it is given.
    #[serde(default)]
    pub how: How,
    /// How much.
    #[serde(default)]
    pub amount: Amount,
    /// Of the solution or the undiluted liquid each unit gets, mL, where it is not stirred into the
    /// tank; left out where nobody measures it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ml_a_unit: Option<f64>,
    /// When.
    #[serde(default)]
    pub when: When,
}

/// What something is to the trial.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Role {
    /// Feeds the plants.
    Feed,
    /// Given beside the feed.
    Additive,
}

impl Role {
    /// Both, in the order of the sheet.
    pub const ALL: [Self; 2] = [Self::Feed, Self::Additive];

    /// As a grower says it; also the name of the factor.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Feed => "feed",
            Self::Additive => "additive",
        }
    }

    /// The shelf of Stores on which its names stand; recipes stand beside the feeds.
    #[must_use]
    pub fn shelf(self) -> &'static str {
        match self {
            Self::Feed => "feeds",
            Self::Additive => "additives",
        }
    }
}

/// How something is given.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum How {
    /// Into the tank or can from which all water of the treatment comes.
    #[default]
    Stirred,
    /// A solution of its own, poured onto the medium.
    Drenched,
    /// A solution of its own, onto the leaves.
    Sprayed,
    /// Roots or cuttings dipped into a solution of its own.
    Dipped,
    /// A powder on leaves, cuttings or medium.
    Dusted,
    /// On the seed.
    OnSeed,
    /// Into stem, root zone or line.
    Injected,
}

impl How {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::Stirred,
        Self::Drenched,
        Self::Sprayed,
        Self::Dipped,
        Self::Dusted,
        Self::OnSeed,
        Self::Injected,
    ];

    /// As a grower says it.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Stirred => "stirred into the water",
            Self::Drenched => "drenched",
            Self::Sprayed => "sprayed",
            Self::Dipped => "dipped",
            Self::Dusted => "dusted",
            Self::OnSeed => "on the seed",
            Self::Injected => "injected",
        }
    }

    /// Whether it goes into the tank from which the treatment gets its water.
    #[must_use]
    pub fn in_tank(self) -> bool {
        self == Self::Stirred
    }

    /// Whether a solution is made for it, so that a dose in a litre says something.
    #[must_use]
    pub fn is_solution(self) -> bool {
        matches!(
            self,
            Self::Stirred | Self::Drenched | Self::Sprayed | Self::Dipped
        )
    }
}

/// How much is given.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Amount {
    /// Share of the dose on its label.
    OfLabel(f64),
    /// mL or g in a litre, of each part of a feed of several parts.
    PerLitre(f64),
    /// mL or g for each unit, however much water it holds: a tray, a pot, a whole system.
    PerUnit(f64),
    /// mL or g for each plant or site of a unit.
    PerSite(f64),
    /// As it comes from the bottle.
    Undiluted,
}

impl Default for Amount {
    fn default() -> Self {
        Self::OfLabel(1.0)
    }
}

/// Largest share of the label dose that is planned: beyond it labels warn of harm.
pub const MOST_OF_LABEL: f64 = 3.0;
/// Largest dose in a litre, mL or g.
const MOST_PER_LITRE: f64 = 1000.0;

impl Amount {
    /// The figure; None for undiluted.
    #[must_use]
    pub fn figure(self) -> Option<f64> {
        match self {
            Self::OfLabel(x) | Self::PerLitre(x) | Self::PerUnit(x) | Self::PerSite(x) => Some(x),
            Self::Undiluted => None,
        }
    }

    /// What the figure counts.
    #[must_use]
    pub fn unit(self) -> &'static str {
        match self {
            Self::OfLabel(_) => "× the label dose",
            Self::PerLitre(_) => "mL or g a litre",
            Self::PerUnit(_) => "mL or g a unit",
            Self::PerSite(_) => "mL or g a plant",
            Self::Undiluted => "undiluted",
        }
    }

    /// As `0.5 × the label dose`.
    #[must_use]
    pub fn words(self) -> String {
        self.figure().map_or_else(
            || self.unit().to_owned(),
            |x| format!("{x} {}", self.unit()),
        )
    }

    fn most(self) -> f64 {
        match self {
            Self::OfLabel(_) => MOST_OF_LABEL,
            Self::PerLitre(_) => MOST_PER_LITRE,
            Self::PerUnit(_) | Self::PerSite(_) | Self::Undiluted => MOST_ML_A_UNIT,
        }
    }
}

/// When something is given. Days count from sowing.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum When {
    /// Whenever the trial is fed.
    #[default]
    EachFeeding,
    /// On these days.
    Days(Vec<u32>),
    /// Again and again.
    Every {
        /// So many days between.
        days: u32,
        /// First on this day.
        from: u32,
    },
    /// Once, on day 0.
    Planting,
}

/// Last day that can be named.
const LAST_DAY: u32 = 3650;
/// Most days that can be listed.
const MOST_DAYS: usize = 200;

impl When {
    /// The days before `end` on which it is given; None where it goes with the feedings of the
    /// trial.
    ///
    /// ```
    /// use iron_twin_core::trial::application::When;
    /// assert_eq!(When::Every { days: 3, from: 2 }.days(10), Some(vec![2, 5, 8]));
    /// assert_eq!(When::Days(vec![8, 4, 30]).days(12), Some(vec![4, 8]));
    /// assert_eq!(When::EachFeeding.days(12), None);
    /// ```
    #[must_use]
    pub fn days(&self, end: u32) -> Option<Vec<u32>> {
        let mut days = match self {
            Self::EachFeeding => return None,
            Self::Days(days) => days.clone(),
            Self::Every { days, from } => (*from..end).step_by(*days as usize).collect(),
            Self::Planting => vec![0],
        };
        days.retain(|day| *day < end);
        days.sort_unstable();
        days.dedup();
        Some(days)
    }

    /// Whether it is given on a day; with the feedings of the trial it may be on any.
    #[must_use]
    pub fn falls_on(&self, day: Option<u32>) -> bool {
        match (self, day) {
            (Self::EachFeeding, _) => true,
            (_, None) => false,
            (_, Some(day)) => self
                .days(day + 1)
                .is_some_and(|days| days.last() == Some(&day)),
        }
    }

    /// As a grower says it.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::EachFeeding => "with each feeding".into(),
            Self::Days(days) if days.len() == 1 => format!("on day {}", days[0]),
            Self::Days(days) => {
                let all: Vec<String> = days.iter().map(u32::to_string).collect();
                format!("on days {}", all.join(", "))
            }
            Self::Every { days: 1, from } => format!("every day from day {from}"),
            Self::Every { days, from } => format!("every {days} days from day {from}"),
            Self::Planting => "once at planting".into(),
        }
    }

    fn check(&self) -> Result<(), String> {
        match self {
            Self::Days(days) if days.is_empty() => Err("say on which days".into()),
            Self::Days(days) if days.len() > MOST_DAYS => Err(format!("at most {MOST_DAYS} days")),
            Self::Days(days) if days.iter().any(|d| *d > LAST_DAY) => {
                Err(format!("days from 0 to {LAST_DAY}"))
            }
            Self::Every { days, .. } if !(1..=365).contains(days) => {
                Err("every 1 to 365 days".into())
            }
            Self::Every { from, .. } if *from > LAST_DAY => {
                Err(format!("days from 0 to {LAST_DAY}"))
            }
            _ => Ok(()),
        }
    }
}

/// Whether a name says that nothing is given.
#[must_use]
pub fn is_none(name: &str) -> bool {
    matches!(
        name.trim().to_lowercase().as_str(),
        "" | "none" | "-" | "no" | "nothing" | "plain water"
    )
}

impl Application {
    /// So much of the label dose, stirred into the water at each feeding.
    #[must_use]
    pub fn stirred(role: Role, what: &str, of_label: f64) -> Self {
        Self {
            role,
            what: what.into(),
            how: How::default(),
            amount: Amount::OfLabel(of_label),
            ml_a_unit: None,
            when: When::default(),
        }
    }

    /// Whether it is nothing: no name, or none of it.
    #[must_use]
    pub fn is_nothing(&self) -> bool {
        is_none(&self.what) || self.amount.figure() == Some(0.0)
    }

    /// Whether it is mixed with water of its own before it is given.
    #[must_use]
    pub fn takes_water(&self) -> bool {
        !self.how.in_tank() && self.how.is_solution() && self.amount != Amount::Undiluted
    }

    /// Whether two are of one name.
    #[must_use]
    pub fn is_also(&self, other: &Self) -> bool {
        self.role == other.role
            && self.what.trim().to_lowercase() == other.what.trim().to_lowercase()
    }

    /// Share of the label dose, where it is said so.
    #[must_use]
    pub fn of_label(&self) -> Option<f64> {
        if let Amount::OfLabel(share) = self.amount {
            Some(share)
        } else {
            None
        }
    }

    /// Checks its figures, and that they go together.
    ///
    /// # Errors
    /// What is wrong, in a grower's words.
    ///
    /// ```
    /// use iron_twin_core::trial::application::{Amount, Application, How, Role};
    /// let kelp = Application::stirred(Role::Additive, "kelp", 0.5);
    /// assert_eq!(kelp.check(), Ok(()));
    /// let dusted = Application { how: How::Dusted, amount: Amount::PerLitre(2.0), ..kelp };
    /// assert!(dusted.check().unwrap_err().contains("dusted"));
    /// ```
    pub fn check(&self) -> Result<(), String> {
        if self.what.chars().count() > crate::catalogue::conditions::MOST_LETTERS {
            return Err(format!(
                "at most {} letters",
                crate::catalogue::conditions::MOST_LETTERS
            ));
        }
        let most = self.amount.most();
        if let Some(x) = self.amount.figure().filter(|x| !(0.0..=most).contains(x)) {
            return Err(format!(
                "must lie between 0 and {most} {}, got {x}",
                self.amount.unit()
            ));
        }
        if let Some(ml) = self
            .ml_a_unit
            .filter(|ml| !(0.01..=MOST_ML_A_UNIT).contains(ml))
        {
            return Err(format!(
                "for each unit 0.01 to {MOST_ML_A_UNIT} mL, got {ml}"
            ));
        }
        match (self.how, self.amount) {
            (How::Stirred, Amount::Undiluted | Amount::PerSite(_)) => {
                Err("what is stirred into the water has a dose a litre or a unit".into())
            }
            (how, Amount::PerLitre(_)) if !how.is_solution() => Err(format!(
                "what is {} has no litres; say how much a unit or a plant gets",
                how.words()
            )),
            _ => self.when.check(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sparse_application_is_the_usual_one() {
        let read = |json: &str| serde_json::from_str::<Application>(json);
        let sparse = read(r#"{ "role": "feed", "what": "grow feed" }"#).unwrap();
        assert_eq!(sparse, Application::stirred(Role::Feed, "grow feed", 1.0));
        let spray = r#"{ "role": "additive", "what": "kelp", "how": "sprayed", "amount": "undiluted", "ml_a_unit": 5, "when": { "every": { "days": 3, "from": 2 } } }"#;
        let spray = read(spray).unwrap();
        assert_eq!(
            (spray.how, spray.amount, spray.ml_a_unit),
            (How::Sprayed, Amount::Undiluted, Some(5.0))
        );
        assert_eq!(
            read(&serde_json::to_string(&spray).unwrap()).unwrap(),
            spray
        );
        assert!(
            read(r#"{ "role": "feed", "what": "x", "moon": 1 }"#)
                .unwrap_err()
                .to_string()
                .contains("`moon`")
        );
    }

    #[test]
    fn figures_out_of_range_are_named_and_bounds_belong() {
        let with = |how, amount| {
            Application {
                how,
                amount,
                ..Application::stirred(Role::Feed, "x", 1.0)
            }
            .check()
        };
        for (how, amount, good) in [
            (How::Stirred, Amount::OfLabel(3.0), true),
            (How::Stirred, Amount::OfLabel(3.01), false),
            (How::Stirred, Amount::OfLabel(f64::NAN), false),
            (How::Stirred, Amount::OfLabel(-0.1), false),
            (How::Stirred, Amount::PerUnit(2.0), true),
            (How::Stirred, Amount::PerSite(2.0), false),
            (How::Stirred, Amount::Undiluted, false),
            (How::Sprayed, Amount::Undiluted, true),
            (How::Drenched, Amount::PerLitre(2.0), true),
            (How::OnSeed, Amount::PerLitre(2.0), false),
            (How::Dusted, Amount::OfLabel(1.0), true),
            (How::Injected, Amount::PerSite(0.5), true),
        ] {
            assert_eq!(with(how, amount).is_ok(), good, "{how:?} {amount:?}");
        }
        let when = |when| {
            Application {
                when,
                ..Application::stirred(Role::Feed, "x", 1.0)
            }
            .check()
        };
        assert!(when(When::Days(vec![])).is_err() && when(When::Days(vec![0, 3650])).is_ok());
        assert!(
            when(When::Every { days: 0, from: 1 }).is_err()
                && when(When::Every { days: 365, from: 0 }).is_ok()
        );
    }
}
