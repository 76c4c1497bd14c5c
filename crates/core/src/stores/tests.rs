use super::shelves::{ALL, find, of_condition};
use super::*;
use crate::catalogue::conditions;
use crate::stores::keys;
use crate::trial::application::Role;

fn item(shelf: &str, held: &[(&str, Held)]) -> Item {
    let held = held
        .iter()
        .map(|(key, held)| ((*key).to_owned(), held.clone()))
        .collect();
    Item {
        shelf: shelf.into(),
        name: "mine".into(),
        source: String::new(),
        held,
    }
}

#[test]
fn a_water_analysis_in_mmol_is_turned_into_mg() {
    let water = |text: &str| {
        let held = [
            ("alkalinity_mg_per_l_caco3", text),
            ("so4_mg_per_l", "0,5 mmol/L"),
            ("price_per_l", "1 mmol"),
        ];
        let held = held
            .map(|(key, text)| (key.to_owned(), Held::Words(text.into())))
            .into();
        Item {
            shelf: "waters".into(),
            name: "well".into(),
            source: String::new(),
            held,
        }
        .tidied()
    };
    assert_eq!(
        water("3.1 mmol").number(keys::ALKALINITY_MG_PER_L_CACO3),
        Some(155.1333)
    );
    assert_eq!(water("3.1 mmol").number(keys::SO4_MG_PER_L), Some(48.028));
    assert_eq!(
        water("hard").words_of("alkalinity_mg_per_l_caco3"),
        Some("hard"),
        "left for the check to refuse"
    );
    assert!(
        water("3.1 mmol")
            .check()
            .unwrap_err()
            .to_string()
            .contains("price_per_l")
    );
}

#[test]
fn hardness_in_any_degrees_is_turned_into_german_ones() {
    let hardness = |text: &str| {
        let held = [("hardness_dh".to_owned(), Held::Words(text.into()))].into();
        Item {
            shelf: "waters".into(),
            name: "well".into(),
            source: String::new(),
            held,
        }
        .tidied()
    };
    for (text, german) in [
        ("18 French", 10.09),
        ("180 ppm", 10.09),
        ("12.5 English", 9.98),
        ("10,5 gpg", 10.07),
        ("7 °dH", 7.0),
    ] {
        assert_eq!(
            hardness(text).number(keys::HARDNESS_DH),
            Some(german),
            "{text}"
        );
    }
    for odd in ["hard", "18 buckets", "-3 French", "1.2.3 French", ""] {
        assert_eq!(
            hardness(odd).words_of("hardness_dh"),
            Some(odd),
            "left for the check to refuse"
        );
    }
    // A water of so many degrees goes into a tank with calcium and magnesium.
    let (_, ions) = hardness("18 French").water().unwrap().content().unwrap();
    let both =
        ions.get(iron_twin_chemistry::ions::Ion::Ca) + ions.get(iron_twin_chemistry::ions::Ion::Mg);
    assert!(
        (both - 1.8).abs() < 2e-3,
        "180 mg/L of CaCO3, 100.09 mg a mmol: {both}"
    );
}

#[test]
fn generic_entries_are_sound_and_say_where_their_figures_come_from() {
    for (shelf, text) in ALL {
        let items =
            csv::read(shelf, text.as_bytes()).unwrap_or_else(|e| panic!("{}: {e}", shelf.key));
        assert!(items.iter().all(|i| !i.source.is_empty()), "{}", shelf.key);
        let named = Role::ALL
            .into_iter()
            .map(Role::name)
            .chain(conditions::ALL.into_iter().map(|c| c.key));
        let named: Vec<&str> = named.collect();
        assert!(
            shelf.condition.is_empty() || named.contains(&shelf.condition),
            "{}",
            shelf.condition
        );
    }
    assert!(generic().len() > 80);
    assert_eq!(of_condition("medium").unwrap().key, "media");
    assert!(of_condition("").is_none() && of_condition("dose").is_none());
}

#[test]
fn a_shelf_survives_its_csv() {
    for (shelf, _) in ALL {
        let items: Vec<Item> = generic()
            .into_iter()
            .filter(|i| i.shelf == shelf.key)
            .collect();
        assert_eq!(
            csv::read(shelf, csv::write(shelf, &items).as_bytes()).unwrap(),
            items,
            "{}",
            shelf.key
        );
    }
}

#[test]
fn slips_in_a_file_are_told_by_line_and_column() {
    let said = |text: &str| {
        csv::read(find("feeds").unwrap(), text.as_bytes())
            .unwrap_err()
            .to_string()
    };
    assert_eq!(said("form\nliquid\n"), "the file lacks the column 'name'");
    assert_eq!(
        said("name,colour\na,green\n"),
        "Feeds have no column 'colour'"
    );
    assert_eq!(
        said("name,n_percent\na,3\nb,lots\n"),
        "line 3: n_percent: 'lots' is not a number"
    );
    assert_eq!(
        said("name,n_percent\na,300\n"),
        "line 2: n_percent: must lie between 0 and 100, got 300"
    );
    assert_eq!(
        said("name,form\na,gas\n"),
        "line 2: form: 'gas' is none of liquid, powder"
    );
    assert_eq!(
        said("name,n_percent\nA,3\n a ,3\n"),
        "line 3: 'a' stands in the file twice"
    );
    assert!(said("name,n_percent,k2o_percent\na,60,60\n").contains("more than all of it"));
    assert!(said("name,form\na\n").starts_with("the file is not CSV"));
    assert!(said("name\n\"\"\n").contains("a name has"));
}

#[test]
fn fields_hold_what_they_should() {
    assert_eq!(
        item("media", &[("charged", Held::Words("no".into()))]).check(),
        Ok(())
    );
    assert!(matches!(
        item("media", &[("charged", Held::Number(1.0))]).check(),
        Err(ItemError::Value { .. })
    ));
    assert!(matches!(
        item("attic", &[]).check(),
        Err(ItemError::Shelf(_))
    ));
    assert!(matches!(
        item("media", &[("n_percent", Held::Number(1.0))]).check(),
        Err(ItemError::Unknown { .. })
    ));
    for (date, good) in [
        ("2028-02-29", true),
        ("2027-02-29", false),
        ("2026-13-01", false),
        ("26-1-1", false),
    ] {
        let entry = item("meters", &[("calibrated_on", Held::Words(date.into()))]);
        assert_eq!(entry.check().is_ok(), good, "{date}");
    }
    let salt = item("salts", &[("formula", Held::Words("Ca(NO3".into()))]);
    assert!(
        salt.check()
            .unwrap_err()
            .to_string()
            .contains("parentheses")
    );
}

#[test]
fn own_entries_take_the_place_of_generic_ones() {
    let own = Item {
        name: "Hemp Mat".into(),
        ..item("media", &[("charged", Held::Words("yes".into()))])
    };
    let stores = Stores::with_own(vec![own]);
    assert_eq!(
        stores
            .find("media", "hemp mat")
            .unwrap()
            .words(keys::CHARGED),
        Some("yes")
    );
    assert_eq!(
        stores
            .items()
            .iter()
            .filter(|i| i.name.eq_ignore_ascii_case("hemp mat"))
            .count(),
        1
    );
}

#[test]
fn a_label_dose_is_weighed() {
    let stores = Stores::with_own(Vec::new());
    let grams = stores
        .find("feeds", "grow feed")
        .unwrap()
        .label_g_per_l()
        .unwrap();
    assert!((grams - 4.0 * 1.12).abs() < 1e-12);
    assert!(
        stores
            .find("additives", "Bacillus inoculant")
            .unwrap()
            .label()
            .is_none()
    );
    assert_eq!(
        stores
            .find("waters", "rain water")
            .unwrap()
            .water()
            .unwrap()
            .mg_per_l["Ca"],
        0.5
    );
}

#[test]
fn lux_is_turned_by_kind_of_light() {
    // Full sun is about 108,000 lux and 2,000 umol/m2/s (Thimijan and Heins 1983).
    assert_eq!(
        108_000.0 / shelves::lights::lux_per_umol("daylight").unwrap(),
        2000.0
    );
    assert_eq!(shelves::lights::lux_per_umol("red and blue LED"), None);
}
