//! The deal: which unit has which treatment, where it stands, and what sealed it.

use super::space::Position;
use iron_twin_terms::indices::TreatmentIndex;
use jiff::Timestamp;

/// A dealt unit.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unit {
    /// Random id.
    pub id: String,
    /// Blind code.
    pub code: String,
    /// Where it stands.
    pub position: Position,
    /// Index of its treatment in the sheet. Secret until the reveal.
    pub treatment: TreatmentIndex,
    /// That it was written off.
    pub lost: Option<Loss>,
}

/// That a unit was lost.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Loss {
    /// What happened to it.
    pub reason: String,
    /// The day since sowing on which it was lost; none before the sowing.
    pub day: Option<u32>,
}

/// The sealed deal. Secret until the reveal, but for the commitment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Deal {
    /// Seed of the deal.
    pub seed: u64,
    /// Nonce of the commitment.
    pub nonce: [u8; 32],
    /// The commitment, shown from the start.
    pub commitment: String,
    /// When it was dealt.
    pub dealt_at: Timestamp,
}
