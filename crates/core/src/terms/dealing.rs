//! How units were dealt, as far as the model and the re-deal must know.

/// How units were dealt, as far as the re-deal and the model must know.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Dealing {
    /// What was dealt together.
    pub restriction: Restriction,
    /// Largest gap between treatment means of the starting size that the deal admitted, as a share of their average.
    pub within: Option<f64>,
}

/// Which units could not be dealt one by one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Restriction {
    /// Each unit by itself, inside its block.
    #[default]
    Free,
    /// Every treatment once in each row and column.
    LatinSquare,
    /// Systems that swap treatments from one round to the next.
    SwapOver,
    /// One factor by lamps or pumps that serve several units, the others inside them.
    SplitPlot,
}

impl Dealing {
    /// Whether a unit is a system during one round.
    #[must_use]
    pub fn is_swap_over(&self) -> bool {
        self.restriction == Restriction::SwapOver
    }
}
