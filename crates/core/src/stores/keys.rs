//! Fields of the shelves that the stations compute from, as constants: a slip in one does not
//! compile, where a slip in a string would be a field that is never known.

/// A field that holds a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NumberKey(&'static str);

/// A field that holds words, a choice or a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WordsKey(&'static str);

impl NumberKey {
    /// As it stands in the file and in the CSV.
    #[must_use]
    pub const fn key(self) -> &'static str {
        self.0
    }
}

impl WordsKey {
    /// As it stands in the file and in the CSV.
    #[must_use]
    pub const fn key(self) -> &'static str {
        self.0
    }
}

macro_rules! keys {
    ($all:ident of $kind:ident: $($name:ident = $key:literal,)+) => {
        $(
            #[doc = concat!("The field `", $key, "`.")]
            pub const $name: $kind = $kind($key);
        )+
        #[cfg(test)]
        const $all: &[$kind] = &[$($name),+];
    };
}

keys! {
    NUMBERS of NumberKey:
    ALKALINITY_MG_PER_L_CACO3 = "alkalinity_mg_per_l_caco3",
    CA_MG_PER_L = "ca_mg_per_l",
    CALIBRATE_EVERY_DAYS = "calibrate_every_days",
    DENSITY_KG_PER_L = "density_kg_per_l",
    DOSE_PER_L = "dose_per_l",
    EC_LEAST_MS_PER_CM = "ec_least_ms_per_cm",
    EC_MOST_MS_PER_CM = "ec_most_ms_per_cm",
    HARDNESS_DH = "hardness_dh",
    HARVEST_DAY = "harvest_day",
    HOURS_A_DAY = "hours_a_day",
    LASTS_CROPS = "lasts_crops",
    LASTS_H = "lasts_h",
    N_AMMONIUM_PERCENT = "n_ammonium_percent",
    N_NITRATE_PERCENT = "n_nitrate_percent",
    N_PERCENT = "n_percent",
    N_UREA_PERCENT = "n_urea_percent",
    PH = "ph",
    PH_LEAST = "ph_least",
    PH_MOST = "ph_most",
    PPFD_UMOL_PER_M2_S = "ppfd_umol_per_m2_s",
    PRE_HARVEST_DAYS = "pre_harvest_days",
    PRICE_EACH = "price_each",
    PRICE_PER_KG = "price_per_kg",
    PRICE_PER_UNIT = "price_per_unit",
    PRICE_PER_L = "price_per_l",
    PRICE_PER_KG_OR_L = "price_per_kg_or_l",
    PURITY_PERCENT = "purity_percent",
    SO4_MG_PER_L = "so4_mg_per_l",
    SOLUBILITY_G_PER_L = "solubility_g_per_l",
    TARE_G = "tare_g",
    TEN_SPOONS_G = "ten_spoons_g",
    UNITS_LIT = "units_lit",
    UNITS_SERVED = "units_served",
    VOLUME_L = "volume_l",
    WATTS = "watts",
}

keys! {
    WORDS of WordsKey:
    CALIBRATED_ON = "calibrated_on",
    CHARGED = "charged",
    COMPOSITION = "composition",
    FOOD_GRADE = "food_grade",
    FORM = "form",
    FORMULA = "formula",
    GROWN_AS = "grown_as",
    KIND = "kind",
    LINES = "lines",
    LIVING = "living",
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stores::shelves::ALL;
    use crate::stores::{Field, Holds};

    fn fields(key: &str) -> Vec<&'static Field> {
        let all = ALL.iter().flat_map(|(shelf, _)| shelf.fields);
        all.filter(|field| field.key == key).collect()
    }

    /// Every constant is a field of a shelf, and holds what its type says.
    #[test]
    fn every_key_stands_on_a_shelf() {
        let is_number = |field: &&Field| matches!(field.holds, Holds::Number { .. });
        for key in NUMBERS {
            let own = fields(key.key());
            assert!(!own.is_empty() && own.iter().all(is_number), "{key:?}");
        }
        for key in WORDS {
            let own = fields(key.key());
            assert!(!own.is_empty() && !own.iter().any(is_number), "{key:?}");
        }
        assert!(fields("lasts_crop").is_empty(), "a slip stands on none");
    }
}
