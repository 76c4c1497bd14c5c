//! A grow room with a known truth: what trays would weigh, stand and read, from a seed.

use crate::place::deal::Dealt;
use rand::RngExt;
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;

/// The truth that the simulator follows.
#[derive(Debug, Clone, PartialEq)]
pub struct Truth {
    /// Mean harvest weight of the control, g.
    pub control_g: f64,
    /// True gain of each treatment, g; the control's is 0.
    pub gain_g: Vec<f64>,
    /// Standard deviation between levels, g.
    pub level_sd_g: f64,
    /// Standard deviation between trays of one treatment on one level, g.
    pub tray_sd_g: f64,
    /// What an edge slot costs, g.
    pub edge_g: f64,
    /// EC of each treatment's solution, mS/cm.
    pub ec: Vec<f64>,
    /// Mean height at harvest, mm, of a tray of mean weight.
    pub height_mm: f64,
    /// Days to harvest.
    pub days: u32,
}

/// One simulated tray.
#[derive(Debug, Clone, PartialEq)]
pub struct Tray {
    /// Weight cut, g, to the tenth as a kitchen scale shows it.
    pub net_g: f64,
    /// Tray and mat alone, g.
    pub tare_g: f64,
    /// Final height, mm.
    pub height_mm: f64,
    /// EC about which the readings scatter, mS/cm.
    pub ec: f64,
}

/// A grow room that answers from its seed alone.
pub struct Room {
    truth: Truth,
    random: ChaCha8Rng,
}

fn tenth(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

impl Room {
    /// A room with this truth and seed.
    ///
    /// ```
    /// use iron_twin_core::practice::season::{Room, Truth};
    /// let truth = Truth {
    ///     control_g: 300.0, gain_g: vec![0.0, 40.0], level_sd_g: 10.0, tray_sd_g: 15.0, edge_g: 5.0, ec: vec![0.2, 1.6],
    ///     height_mm: 70.0, days: 10,
    /// };
    /// let (mut a, mut b) = (Room::new(truth.clone(), 7), Room::new(truth, 7));
    /// assert_eq!(a.ph_reading(), b.ph_reading(), "the same seed plays the same season");
    /// ```
    #[must_use]
    pub fn new(truth: Truth, seed: u64) -> Self {
        Self {
            truth,
            random: ChaCha8Rng::seed_from_u64(seed),
        }
    }

    /// A standard normal deviate (Box and Muller).
    fn normal(&mut self) -> f64 {
        let (u, v): (f64, f64) = (1.0 - self.random.random::<f64>(), self.random.random());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    }

    /// What each dealt tray comes to.
    ///
    /// ```
    /// use iron_twin_core::practice::season::{Room, Truth};
    /// use iron_twin_core::trial::space::Rack;
    /// use iron_twin_core::place::deal::deal;
    /// let truth = Truth {
    ///     control_g: 300.0, gain_g: vec![0.0, 40.0], level_sd_g: 10.0, tray_sd_g: 15.0, edge_g: 5.0, ec: vec![0.2, 1.6],
    ///     height_mm: 70.0, days: 10,
    /// };
    /// let units = deal(&Rack::default(), 2, 1).unwrap();
    /// let trays = Room::new(truth, 7).trays(&units, 4);
    /// assert_eq!(trays.len(), 16);
    /// assert!(trays.iter().all(|t| t.net_g > 200.0 && t.net_g < 450.0));
    /// ```
    pub fn trays(&mut self, units: &[Dealt], used_slots: u32) -> Vec<Tray> {
        let levels = units.iter().map(|u| u.position.level).max().unwrap_or(0);
        let level_effects: Vec<f64> = (0..levels)
            .map(|_| self.truth.level_sd_g * self.normal())
            .collect();
        units
            .iter()
            .map(|unit| {
                let edge = if unit.position.is_edge(used_slots) {
                    -self.truth.edge_g
                } else {
                    0.0
                };
                let mean = self.truth.control_g + self.truth.gain_g[unit.treatment];
                let own = level_effects[unit.position.level as usize - 1]
                    + edge
                    + self.truth.tray_sd_g * self.normal();
                let net_g = tenth((mean + own).max(1.0));
                let height_mm = (self.truth.height_mm * (net_g / self.truth.control_g).powf(0.35)
                    + 1.5 * self.normal())
                .round();
                Tray {
                    net_g,
                    tare_g: tenth(288.0 + 2.0 * self.normal()),
                    height_mm,
                    ec: self.truth.ec[unit.treatment],
                }
            })
            .collect()
    }

    /// Height on a day: a logistic rise to the final height.
    ///
    /// ```
    /// use iron_twin_core::practice::season::{Room, Truth};
    /// use iron_twin_core::trial::space::Rack;
    /// use iron_twin_core::place::deal::deal;
    /// let truth = Truth {
    ///     control_g: 300.0, gain_g: vec![0.0, 40.0], level_sd_g: 10.0, tray_sd_g: 15.0, edge_g: 5.0, ec: vec![0.2, 1.6],
    ///     height_mm: 70.0, days: 10,
    /// };
    /// let mut room = Room::new(truth, 7);
    /// let tray = room.trays(&deal(&Rack::default(), 2, 1).unwrap(), 4)[0].clone();
    /// assert!(room.height_on(&tray, 2) < room.height_on(&tray, 10));
    /// ```
    pub fn height_on(&mut self, tray: &Tray, day: u32) -> f64 {
        let middle = 0.5 * f64::from(self.truth.days);
        let share =
            1.0 / (1.0 + (-(f64::from(day) - middle) / (0.13 * f64::from(self.truth.days))).exp());
        (tray.height_mm * share + 0.8 * self.normal())
            .max(0.0)
            .round()
    }

    /// A reading of EC, mS/cm.
    ///
    /// ```
    /// use iron_twin_core::practice::season::{Room, Truth};
    /// use iron_twin_core::trial::space::Rack;
    /// use iron_twin_core::place::deal::deal;
    /// let truth = Truth {
    ///     control_g: 300.0, gain_g: vec![0.0, 40.0], level_sd_g: 10.0, tray_sd_g: 15.0, edge_g: 5.0, ec: vec![0.2, 1.6],
    ///     height_mm: 70.0, days: 10,
    /// };
    /// let mut room = Room::new(truth, 7);
    /// let tray = room.trays(&deal(&Rack::default(), 2, 1).unwrap(), 4)[0].clone();
    /// assert!((room.ec_reading(&tray) - tray.ec).abs() < 0.5);
    /// ```
    pub fn ec_reading(&mut self, tray: &Tray) -> f64 {
        let value = tray.ec * (1.0 + 0.03 * self.normal());
        (value.max(0.0) * 100.0).round() / 100.0
    }

    /// A reading of pH.
    ///
    /// ```
    /// use iron_twin_core::practice::season::{Room, Truth};
    /// let truth = Truth {
    ///     control_g: 300.0, gain_g: vec![0.0, 40.0], level_sd_g: 10.0, tray_sd_g: 15.0, edge_g: 5.0, ec: vec![0.2, 1.6],
    ///     height_mm: 70.0, days: 10,
    /// };
    /// assert!((4.0..8.0).contains(&Room::new(truth, 7).ph_reading()));
    /// ```
    pub fn ph_reading(&mut self) -> f64 {
        tenth(6.1 + 0.12 * self.normal())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::place::deal::deal;
    use crate::trial::space::Rack;

    fn truth() -> Truth {
        Truth {
            control_g: 100.0,
            gain_g: vec![0.0, 30.0],
            level_sd_g: 6.0,
            tray_sd_g: 5.0,
            edge_g: 3.0,
            ec: vec![0.3, 1.6],
            height_mm: 70.0,
            days: 12,
        }
    }

    #[test]
    fn the_same_seed_grows_the_same_trays() {
        let units = deal(&Rack::default(), 2, 5).unwrap();
        let grow = |seed| Room::new(truth(), seed).trays(&units, 4);
        assert_eq!(grow(1), grow(1));
        assert_ne!(grow(1), grow(2));
    }

    #[test]
    fn the_truth_comes_out_on_average() {
        let rack = Rack {
            levels: 12,
            slots: 24,
            ..Rack::default()
        };
        let units = deal(&rack, 2, 5).unwrap();
        let trays = Room::new(truth(), 9).trays(&units, 24);
        let mean = |t: usize| {
            let own: Vec<f64> = units
                .iter()
                .zip(&trays)
                .filter(|(u, _)| u.treatment.get() == t)
                .map(|(_, y)| y.net_g)
                .collect();
            own.iter().sum::<f64>() / own.len() as f64
        };
        // 144 trays a side: standard error of the difference about 0.6 g.
        assert!(
            (mean(1) - mean(0) - 30.0).abs() < 2.5,
            "{}",
            mean(1) - mean(0)
        );
    }

    #[test]
    fn plants_only_grow_taller_in_the_long_run() {
        let units = deal(&Rack::default(), 2, 5).unwrap();
        let mut room = Room::new(truth(), 3);
        let trays = room.trays(&units, 4);
        assert!(room.height_on(&trays[0], 10) > room.height_on(&trays[0], 3));
        assert!((room.ph_reading() - 6.1).abs() < 1.0);
        assert!((room.ec_reading(&trays[0]) / trays[0].ec - 1.0).abs() < 0.2);
    }
}
