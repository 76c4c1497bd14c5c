//! The scorecard: what counts beside the yield, and for how much. The value itself stands in
//! [`crate::trial::scorecard`].

use super::head::Head;
use super::kind::{Desk, Record};
use super::refusal::{Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{Kept, Records};
use crate::trial::scorecard::Scorecard;
use iron_twin_terms::role::Role;

impl Kept for Scorecard {
    const KIND: &'static str = "scorecard";
}

impl Records {
    /// The scorecard that stands; None where nobody kept one.
    #[must_use]
    pub fn scorecard(&self) -> Option<&Scorecard> {
        self.of::<Scorecard>().last().map(|own| &own.is)
    }
}

impl Record for Scorecard {
    const SEALS: bool = false;
    const AFTERWARDS: bool = true;

    fn may(role: Role) -> bool {
        role == Role::Owner
    }

    fn stage(&self) -> Stage {
        Stage::Opened
    }

    fn place(&self, _: &Head) -> Option<String> {
        Some(String::new())
    }

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        self.refused()
            .map_or(Ok(()), |(field, why)| Err(Refusal::wrong(field, why)))
    }

    fn told(&self, _: &Trial, _: &Head) -> String {
        "changed the scorecard".to_owned()
    }
}
