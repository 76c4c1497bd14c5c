//! Places in the two lists that everything speaks of: the treatments of a sheet and the units of a
//! deal.
//!
//! Each is a type of its own, so that one is never taken for the other, nor for a number of
//! something. Any list that is told treatment by treatment, or unit by unit, is read by them.

use serde::{Deserialize, Serialize};
use std::fmt;
use std::ops::{Index, IndexMut};

macro_rules! index {
    ($(#[$of:meta])* $name:ident) => {
        $(#[$of])*
        #[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[cfg_attr(feature = "schema", schema(value_type = usize))]
        #[serde(transparent)]
        pub struct $name(pub usize);

        impl $name {
            /// The places of a list of so many, in order.
            pub fn all(count: usize) -> impl DoubleEndedIterator<Item = Self> + ExactSizeIterator + Clone + use<> {
                (0..count).map(Self)
            }

            /// As a plain number.
            #[must_use]
            pub fn get(self) -> usize {
                self.0
            }

            /// What stands there in a list; None beyond its end.
            #[must_use]
            pub fn of<T>(self, list: &[T]) -> Option<&T> {
                list.get(self.0)
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                self.0.fmt(f)
            }
        }

        impl<T> Index<$name> for [T] {
            type Output = T;

            fn index(&self, at: $name) -> &T {
                &self[at.0]
            }
        }

        impl<T> IndexMut<$name> for [T] {
            fn index_mut(&mut self, at: $name) -> &mut T {
                &mut self[at.0]
            }
        }

        impl<T> Index<$name> for Vec<T> {
            type Output = T;

            fn index(&self, at: $name) -> &T {
                &self[at.0]
            }
        }

        impl<T> IndexMut<$name> for Vec<T> {
            fn index_mut(&mut self, at: $name) -> &mut T {
                &mut self[at.0]
            }
        }
    };
}

index! {
    /// Place of a unit in `Trial::units`, from 0.
    UnitIndex
}
index! {
    /// Place of a treatment in `Sheet::treatments`, from 0.
    TreatmentIndex
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_are_read_and_written_by_place() {
        let mut list = ["plain water", "half", "full"].to_vec();
        list[TreatmentIndex(2)] = "double";
        let read: Vec<&str> = TreatmentIndex::all(3).rev().map(|t| list[t]).collect();
        assert_eq!(read, ["double", "half", "plain water"]);
        assert_eq!(list[1..][UnitIndex(0)], "half");
    }

    #[test]
    fn on_the_wire_it_is_a_number() {
        assert_eq!(serde_json::to_string(&UnitIndex(4)).unwrap(), "4");
    }
}
