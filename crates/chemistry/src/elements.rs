//! Standard atomic weights.

/// Symbol and atomic weight, g/mol.
///
/// Abridged standard atomic weights of the IUPAC (Prohaska et al., Pure Appl. Chem. 94, 2022, 573),
/// for the elements that fertilisers, waters and their salts are made of.
/// `chemistry/tests/against_phreeqc/masses.py` holds them against a reference library.
pub const ATOMIC_WEIGHTS: [(&str, f64); 29] = [
    ("H", 1.008),
    ("Li", 6.94),
    ("B", 10.81),
    ("C", 12.011),
    ("N", 14.007),
    ("O", 15.999),
    ("F", 18.998),
    ("Na", 22.990),
    ("Mg", 24.305),
    ("Al", 26.982),
    ("Si", 28.085),
    ("P", 30.974),
    ("S", 32.06),
    ("Cl", 35.45),
    ("K", 39.098),
    ("Ca", 40.078),
    ("Ti", 47.867),
    ("Cr", 51.996),
    ("Mn", 54.938),
    ("Fe", 55.845),
    ("Co", 58.933),
    ("Ni", 58.693),
    ("Cu", 63.546),
    ("Zn", 65.38),
    ("Se", 78.971),
    ("Br", 79.904),
    ("Sr", 87.62),
    ("Mo", 95.95),
    ("I", 126.90),
];

/// Atomic weight of an element, g/mol; None where the symbol stands for none that is known here.
///
/// ```
/// use iron_twin_chemistry::elements::atomic_weight;
/// assert_eq!(atomic_weight("Ca"), Some(40.078));
/// assert_eq!(atomic_weight("Xx"), None);
/// ```
#[must_use]
pub fn atomic_weight(symbol: &str) -> Option<f64> {
    ATOMIC_WEIGHTS
        .iter()
        .find(|(own, _)| *own == symbol)
        .map(|(_, weight)| *weight)
}

/// The table's own index of a symbol.
pub(super) fn index(symbol: &str) -> Option<usize> {
    ATOMIC_WEIGHTS.iter().position(|(own, _)| *own == symbol)
}
