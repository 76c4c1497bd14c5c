//! Latin squares drawn at random.

use super::{below, shuffle};
use rand_chacha::ChaCha8Rng;

/// Treatments up to which squares are drawn row by row.
const BY_ROWS: usize = 5;

/// A square of `n` treatments, row by row.
pub(super) fn draw(random: &mut ChaCha8Rng, n: usize) -> Vec<Vec<usize>> {
    if n <= BY_ROWS {
        by_rows(random, n)
    } else {
        by_moves(random, n)
    }
}

/// Number of Latin squares of order 1 to 8. Source: OEIS A002860.
const SQUARES: [f64; 8] = [
    1.0,
    2.0,
    12.0,
    576.0,
    161_280.0,
    812_851_200.0,
    61_479_419_904_000.0,
    108_776_032_459_082_956_800.0,
];

/// How many Latin squares there are; infinite beyond what is known here.
pub(super) fn how_many(n: usize) -> f64 {
    n.checked_sub(1)
        .and_then(|i| SQUARES.get(i))
        .copied()
        .unwrap_or(f64::INFINITY)
}

fn by_rows(random: &mut ChaCha8Rng, n: usize) -> Vec<Vec<usize>> {
    let mut rows: Vec<Vec<usize>> = Vec::with_capacity(n);
    while rows.len() < n {
        let mut row: Vec<usize> = (0..n).collect();
        shuffle(random, &mut row);
        // Keeping the rows so far and drawing only this one again would favour squares with few
        // continuations.
        if rows
            .iter()
            .any(|above| above.iter().zip(&row).any(|(a, b)| a == b))
        {
            rows.clear();
        } else {
            rows.push(row);
        }
    }
    rows
}

/// The cube of Jacobson and Matthews: 1 where a row, column and treatment meet, and for a moment
/// one -1.
struct Cube {
    n: usize,
    cells: Vec<i8>,
}

impl Cube {
    fn cyclic(n: usize) -> Self {
        let mut cube = Self {
            n,
            cells: vec![0; n * n * n],
        };
        for row in 0..n {
            for column in 0..n {
                cube.add([row, column, (row + column) % n], 1);
            }
        }
        cube
    }

    fn at(&self, [row, column, treatment]: [usize; 3]) -> i8 {
        self.cells[(row * self.n + column) * self.n + treatment]
    }

    fn add(&mut self, [row, column, treatment]: [usize; 3], by: i8) {
        self.cells[(row * self.n + column) * self.n + treatment] += by;
    }

    /// Coordinates along one axis at which a 1 stands beside `cell`; two where the square is
    /// improper there.
    fn ones(&self, cell: [usize; 3], axis: usize) -> Vec<usize> {
        let along = |i: usize| {
            let mut other = cell;
            other[axis] = i;
            other
        };
        (0..self.n).filter(|&i| self.at(along(i)) == 1).collect()
    }

    /// One move from `cell`, which holds 0 in a proper square and -1 in an improper one. Gives the
    /// cell at -1, if any.
    fn step(&mut self, random: &mut ChaCha8Rng, cell: [usize; 3]) -> Option<[usize; 3]> {
        let mut other = [0; 3];
        for (axis, other) in other.iter_mut().enumerate() {
            let ones = self.ones(cell, axis);
            *other = if ones.len() == 1 {
                ones[0]
            } else {
                ones[below(random, ones.len())]
            };
        }
        let [r, c, t] = cell;
        let [r1, c1, t1] = other;
        for up in [[r, c, t], [r, c1, t1], [r1, c, t1], [r1, c1, t]] {
            self.add(up, 1);
        }
        for down in [[r1, c, t], [r, c1, t], [r, c, t1], [r1, c1, t1]] {
            self.add(down, -1);
        }
        (self.at(other) < 0).then_some(other)
    }

    fn rows(&self) -> Vec<Vec<usize>> {
        (0..self.n)
            .map(|r| (0..self.n).map(|c| self.ones([r, c, 0], 2)[0]).collect())
            .collect()
    }
}

fn by_moves(random: &mut ChaCha8Rng, n: usize) -> Vec<Vec<usize>> {
    let mut cube = Cube::cyclic(n);
    // Visits to proper squares are counted, not steps: each square is then as likely as any other,
    // whereas whichever proper square comes next after so many steps is the likelier, the more
    // improper ones lead to it.
    let (mut improper, mut visits) = (None, 0);
    while visits < n * n * n {
        let cell = improper.unwrap_or_else(|| {
            loop {
                let cell = [below(random, n), below(random, n), below(random, n)];
                if cube.at(cell) == 0 {
                    break cell;
                }
            }
        });
        improper = cube.step(random, cell);
        visits += usize::from(improper.is_none());
    }
    cube.rows()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rand::SeedableRng;
    use std::collections::HashMap;

    /// The moves must reach every square as often as rows do: at order 4 both can be counted.
    #[test]
    fn moves_reach_every_square_about_equally() {
        let mut random = ChaCha8Rng::seed_from_u64(5);
        let mut seen: HashMap<Vec<Vec<usize>>, f64> = HashMap::new();
        let draws = 6000;
        for _ in 0..draws {
            *seen.entry(by_moves(&mut random, 4)).or_default() += 1.0;
        }
        assert_eq!(seen.len(), 576);
        let expected = f64::from(draws) / 576.0;
        let chi_square: f64 = seen
            .values()
            .map(|n| (n - expected) * (n - expected) / expected)
            .sum();
        // 575 degrees of freedom: 685 is passed one time in a thousand.
        assert!(chi_square < 685.0, "{chi_square}");
    }
}
