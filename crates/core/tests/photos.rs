//! Trays measured in drawn pictures, of which the truth is known to the pixel.

use iron_twin_core::practice::picture::{Drawing, Drawn, Setting, draw};
use iron_twin_photo::{Figures, Marked, PhotoError, Picture, measure};

fn marked(drawn: &Drawn) -> Marked {
    Marked {
        corners: drawn.corners,
        card: drawn.card,
        ..Marked::default()
    }
}

fn figures(drawing: &Drawing) -> (Drawn, Figures) {
    let drawn = draw(drawing);
    let figures = measure(&drawn.picture(), &marked(&drawn)).unwrap().0;
    (drawn, figures)
}

#[test]
fn cover_is_that_of_the_drawn_truth_within_a_point() {
    for setting in Setting::ALL {
        for (n, leaves) in [0, 40, 140, 320, 700].into_iter().enumerate() {
            let (drawn, figures) = figures(&Drawing {
                setting,
                leaves,
                seed: 10 + n as u64,
                ..Drawing::default()
            });
            let (cover, error) = (
                drawn.cover_percent,
                figures.cover_percent - drawn.cover_percent,
            );
            assert!(
                error.abs() < 1.0,
                "{}: {error:.2} points at a cover of {cover:.1} %",
                setting.words()
            );
        }
    }
}

#[test]
fn yellow_and_red_leaves_are_told_from_green_ones() {
    for setting in Setting::ALL {
        let drawing = Drawing {
            setting,
            yellow: 0.2,
            red: 0.3,
            seed: 5,
            ..Drawing::default()
        };
        let (drawn, figures) = figures(&drawing);
        let (yellow, red) = (
            figures.yellow_percent.unwrap(),
            figures.red_percent.unwrap(),
        );
        assert!(
            (yellow - drawn.yellow_percent).abs() < 2.0,
            "{}: {yellow} {}",
            setting.words(),
            drawn.yellow_percent
        );
        assert!(
            (red - drawn.red_percent).abs() < 2.0,
            "{}: {red} {}",
            setting.words(),
            drawn.red_percent
        );
        assert!(
            (figures.cover_percent - drawn.cover_percent).abs() < 1.5,
            "{}",
            setting.words()
        );
    }
}

/// The card takes the lamp out: the same leaves have the same colour as in white light, and without
/// the card they have not.
#[test]
fn the_card_takes_the_colour_of_the_light_out() {
    let (_, white) = figures(&Drawing::default());
    let lamp = Drawing {
        setting: Setting::LampAndCard,
        ..Drawing::default()
    };
    let (drawn, with_card) = figures(&lamp);
    let bare = measure(
        &drawn.picture(),
        &Marked {
            card: None,
            ..marked(&drawn)
        },
    )
    .unwrap()
    .0;
    let hue = |f: &Figures| {
        f.blue_yellow
            .unwrap()
            .atan2(f.green_red.unwrap())
            .to_degrees()
    };
    assert!(
        (hue(&with_card) - hue(&white)).abs() < 4.0,
        "{with_card:?} {white:?}"
    );
    assert!((hue(&bare) - hue(&white)).abs() > 7.0, "{bare:?} {white:?}");
}

#[test]
fn an_even_stand_is_evener_than_a_heap() {
    let halves = |left: [u8; 3], right: [u8; 3]| {
        let row = [vec![left; 50], vec![right; 50]].concat();
        let pixels = vec![row.concat(); 100].concat();
        measure(
            &Picture {
                width: 100,
                height: 100,
                pixels: &pixels,
            },
            &Marked::default(),
        )
        .unwrap()
        .0
    };
    let (leaf, mat) = ([70, 120, 50], [240, 240, 238]);
    let heap = halves(leaf, mat);
    // The middle column of fields is half covered.
    assert_eq!(heap.cover_percent, 50.0);
    assert!(
        (heap.evenness_percent.unwrap() - 10.557).abs() < 0.01,
        "{heap:?}"
    );
    let (_, strewn) = figures(&Drawing {
        leaves: 320,
        ..Drawing::default()
    });
    assert!(strewn.evenness_percent.unwrap() > 70.0, "{strewn:?}");
    assert_eq!(halves(leaf, leaf).evenness_percent, None);
    let bare = halves(mat, mat);
    assert_eq!(
        (bare.cover_percent, bare.dark_green, bare.evenness_percent),
        (0.0, None, None)
    );
}

/// A picture turned or drawn at twice the size says the same.
#[test]
fn size_and_turn_change_nothing() {
    let drawn = draw(&Drawing::default());
    let one = measure(&drawn.picture(), &marked(&drawn)).unwrap().0;
    let turned: Vec<u8> = drawn.pixels.chunks(3).rev().flatten().copied().collect();
    let corners = drawn.corners.map(|[x, y]| [1.0 - x, 1.0 - y]);
    let picture = Picture {
        pixels: &turned,
        ..drawn.picture()
    };
    let other = measure(
        &picture,
        &Marked {
            corners,
            ..marked(&drawn)
        },
    )
    .unwrap()
    .0;
    assert!((one.cover_percent - other.cover_percent).abs() < 0.05);
    assert!((one.evenness_percent.unwrap() - other.evenness_percent.unwrap()).abs() < 0.5);
    let mut twice = Vec::new();
    for row in drawn.pixels.chunks(3 * drawn.width) {
        let wide: Vec<u8> = row.chunks(3).flat_map(|p| [p, p].concat()).collect();
        twice.extend([wide.clone(), wide].concat());
    }
    let large = Picture {
        width: 2 * drawn.width,
        height: 2 * drawn.height,
        pixels: &twice,
    };
    let large = measure(&large, &marked(&drawn)).unwrap().0;
    assert!(
        (one.cover_percent - large.cover_percent).abs() < 0.4,
        "{one:?} {large:?}"
    );
}

#[test]
fn more_readiness_never_takes_leaf_away() {
    let drawn = draw(&Drawing {
        setting: Setting::Shadow,
        ..Drawing::default()
    });
    let cover = |readiness: f64| {
        measure(
            &drawn.picture(),
            &Marked {
                readiness,
                ..marked(&drawn)
            },
        )
        .unwrap()
        .0
        .cover_percent
    };
    let covers: Vec<f64> = (0..=10).map(|n| cover(0.1 * f64::from(n))).collect();
    assert!(
        covers.windows(2).all(|two| two[1] >= two[0] - 0.3),
        "{covers:?}"
    );
    assert!(covers[10] > covers[0], "{covers:?}");
}

#[test]
fn what_cannot_be_measured_is_refused_by_name() {
    let pixels = [0u8; 12];
    let picture = Picture {
        width: 2,
        height: 2,
        pixels: &pixels,
    };
    let said = |picture: &Picture<'_>, marked: &Marked| measure(picture, marked).unwrap_err();
    let short = Picture {
        height: 3,
        ..picture
    };
    assert_eq!(
        said(&short, &Marked::default()),
        PhotoError::WrongSize {
            width: 2,
            height: 3,
            wanted: 18,
            got: 12
        }
    );
    let with = |corners| Marked {
        corners,
        ..Marked::default()
    };
    let crossed = [[0.0, 0.0], [1.0, 1.0], [1.0, 0.0], [0.0, 1.0]];
    let beyond = [[0.0, 0.0], [1.2, 0.0], [1.0, 1.0], [0.0, 1.0]];
    let nothing = [[0.5, 0.5]; 4];
    let none = [[f64::NAN, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]];
    for corners in [crossed, beyond, nothing, none] {
        assert_eq!(
            said(&picture, &with(corners)),
            PhotoError::Corners,
            "{corners:?}"
        );
    }
    for readiness in [-0.1, 1.1, f64::NAN] {
        assert_eq!(
            said(
                &picture,
                &Marked {
                    readiness,
                    ..Marked::default()
                }
            ),
            PhotoError::Readiness
        );
    }
    let black = Marked {
        card: Some([0.5, 0.5]),
        ..Marked::default()
    };
    assert_eq!(said(&picture, &black), PhotoError::Card);
    assert_eq!(
        said(
            &picture,
            &Marked {
                card: Some([1.5, 0.5]),
                ..Marked::default()
            }
        ),
        PhotoError::Card
    );
}
