//! Which register holds what, and how a number lies in it.

use serde::{Deserialize, Serialize};

/// What an instrument measures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Measured {
    /// pH.
    Ph,
    /// Conductivity at 25 °C, mS/cm.
    Ec,
    /// Temperature of the solution, °C.
    Temperature,
    /// Light on the plants, µmol/m²/s.
    Light,
    /// Power, W.
    Power,
    /// Energy since it was set to zero, kWh.
    Energy,
}

impl Measured {
    /// What can be, in its unit: beyond it the instrument is not where it should be, or fails.
    #[must_use]
    pub fn limits(self) -> (f64, f64) {
        match self {
            Self::Ph => (0.0, 14.0),
            Self::Ec => (0.0, 50.0),
            Self::Temperature => (-20.0, 80.0),
            Self::Light => (0.0, 3_000.0),
            Self::Power => (0.0, 50_000.0),
            Self::Energy => (0.0, 1e7),
        }
    }

    /// By so much it may go to and fro and stand still all the same.
    #[must_use]
    pub fn still_within(self, about: f64) -> f64 {
        match self {
            Self::Ph => 0.03,
            Self::Ec => 0.01_f64.max(0.01 * about),
            Self::Temperature => 0.3,
            Self::Light => 5.0_f64.max(0.03 * about),
            Self::Power => 2.0_f64.max(0.03 * about),
            Self::Energy => f64::INFINITY,
        }
    }
}

/// Which table of the device it stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Table {
    /// Input registers, function 4.
    Input,
    /// Holding registers, function 3.
    Holding,
}

/// How a number lies in registers of 16 bits; the higher word first, unless it is said otherwise.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Encoding {
    /// A whole number without a sign, one register.
    U16,
    /// A whole number with a sign, one register.
    I16,
    /// A whole number without a sign, two registers.
    U32,
    /// A whole number without a sign, two registers, the lower word first.
    U32Swapped,
    /// IEEE 754 single precision, two registers.
    F32,
    /// IEEE 754 single precision, two registers, the lower word first.
    F32Swapped,
}

impl Encoding {
    /// Registers it takes.
    #[must_use]
    pub fn words(self) -> u16 {
        match self {
            Self::U16 | Self::I16 => 1,
            _ => 2,
        }
    }

    /// The number in these registers; None for too few or too many, and for what is no number.
    ///
    /// ```
    /// use iron_twin_devices::modbus::registers::Encoding;
    /// // 0x40C80000 is 6.25 (IEEE 754: 1.5625 x 2^2).
    /// assert_eq!(Encoding::F32.number(&[0x40C8, 0x0000]), Some(6.25));
    /// assert_eq!(Encoding::F32Swapped.number(&[0x0000, 0x40C8]), Some(6.25));
    /// assert_eq!(Encoding::I16.number(&[0xFFFF]), Some(-1.0));
    /// ```
    #[must_use]
    pub fn number(self, words: &[u16]) -> Option<f64> {
        let long = |high: u16, low: u16| (u32::from(high) << 16) | u32::from(low);
        let number = match (self, words) {
            (Self::U16, &[word]) => f64::from(word),
            (Self::I16, &[word]) => f64::from(word.cast_signed()),
            (Self::U32, &[a, b]) => f64::from(long(a, b)),
            (Self::U32Swapped, &[a, b]) => f64::from(long(b, a)),
            (Self::F32, &[a, b]) => f64::from(f32::from_bits(long(a, b))),
            (Self::F32Swapped, &[a, b]) => f64::from(f32::from_bits(long(b, a))),
            _ => return None,
        };
        number.is_finite().then_some(number)
    }
}

/// A register that is read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Register {
    /// What it holds.
    pub measures: Measured,
    /// Table.
    pub table: Table,
    /// Address of the first register, from 0.
    pub at: u16,
    /// How the number lies in it.
    pub encoding: Encoding,
    /// The number times this is the value in its unit.
    pub times: f64,
}

/// Most registers of one instrument.
pub const MOST: usize = 12;

/// Whether these registers can be read: not too many, nothing twice, factors that are numbers and
/// not nought.
#[must_use]
pub fn hold(registers: &[Register]) -> bool {
    let all: std::collections::BTreeSet<Measured> = registers.iter().map(|r| r.measures).collect();
    let fits = |r: &Register| {
        r.times.is_finite()
            && r.times != 0.0
            && r.times.abs() <= 1e6
            && r.at.checked_add(r.encoding.words() - 1).is_some()
    };
    !registers.is_empty()
        && registers.len() <= MOST
        && all.len() == registers.len()
        && registers.iter().all(fits)
}

fn usual(measures: Measured, at: u16, times: f64) -> Register {
    Register {
        measures,
        table: Table::Input,
        at,
        encoding: Encoding::I16,
        times,
    }
}

/// The usual registers of a probe: this program's own choice, told in `docs/devices.md`.
#[must_use]
pub fn probe() -> Vec<Register> {
    vec![
        usual(Measured::Ph, 0, 0.01),
        usual(Measured::Ec, 1, 0.001),
        usual(Measured::Temperature, 2, 0.1),
    ]
}

/// The usual registers of a light and power meter.
#[must_use]
pub fn light() -> Vec<Register> {
    let energy = Register {
        encoding: Encoding::U32,
        ..usual(Measured::Energy, 2, 0.001)
    };
    vec![
        usual(Measured::Light, 0, 1.0),
        usual(Measured::Power, 1, 0.1),
        energy,
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_lie_in_registers_as_the_standard_has_them() {
        // From the Modbus application protocol, V1.1b3, section 4.2: registers are big-endian
        // words.
        assert_eq!(Encoding::U16.number(&[612]), Some(612.0));
        assert_eq!(Encoding::U32.number(&[0x0001, 0x86A0]), Some(100_000.0));
        assert_eq!(
            Encoding::U32Swapped.number(&[0x86A0, 0x0001]),
            Some(100_000.0)
        );
        assert_eq!(
            Encoding::F32
                .number(&[0xC048, 0xF5C3])
                .map(|v| (v * 1e4).round()),
            Some(-31_400.0)
        );
        // Not a number, and no end of it.
        assert_eq!(
            (
                Encoding::F32.number(&[0x7FC0, 0]),
                Encoding::F32.number(&[0x7F80, 0])
            ),
            (None, None)
        );
        assert_eq!(
            (
                Encoding::U16.number(&[]),
                Encoding::U16.number(&[1, 2]),
                Encoding::F32.number(&[1])
            ),
            (None, None, None)
        );
    }

    #[test]
    fn the_usual_registers_hold_and_slips_do_not() {
        assert!(hold(&probe()) && hold(&light()));
        let with = |change: fn(&mut Register)| {
            let mut all = probe();
            change(&mut all[0]);
            hold(&all)
        };
        assert!(
            !with(|r| r.times = 0.0)
                && !with(|r| r.times = f64::NAN)
                && !with(|r| r.measures = Measured::Ec)
        );
        assert!(
            with(|r| r.at = u16::MAX) && !with(|r| (r.at, r.encoding) = (u16::MAX, Encoding::F32))
        );
        assert!(!hold(&[]));
    }
}
