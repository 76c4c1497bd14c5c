//! The seasons of the demo: what is asked in each, and what is true of it.

use crate::{BUCKET_L, BUCKETS_READ_EVERY, READY_SEED};
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::practice::season::Truth;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::feed::FeedPlan;

/// A trial as the demo plans it.
pub(crate) struct Script {
    pub(crate) name: &'static str,
    pub(crate) question: &'static str,
    pub(crate) hypothesis: &'static str,
    pub(crate) crop: &'static str,
    pub(crate) end_day: u32,
    /// Measures beside the harvest weight.
    pub(crate) also: &'static [&'static str],
    /// Name and share of the label dose.
    pub(crate) treatments: &'static [(&'static str, f64)],
    pub(crate) space: SpaceKind,
    pub(crate) rack: (u32, u32),
    /// What the match sheet says otherwise than usual.
    pub(crate) conditions: &'static [(&'static str, &'static str)],
    pub(crate) feed: FeedPlan,
    pub(crate) care: CarePlan,
    pub(crate) seed: u64,
    pub(crate) truth: Truth,
    /// Days of it that lie behind us.
    pub(crate) days_past: u32,
}

pub(crate) fn scripts() -> [Script; 4] {
    [amaranth(), rocket(), watercress(), kohlrabi()]
}

/// A season that has ended: four strengths of one feed.
fn amaranth() -> Script {
    Script {
        name: "Red amaranth, how strong a feed?",
        question: "How much feed does red amaranth pay back?",
        hypothesis: "Full feed gives a fifth more than plain water, because twelve days are \
                         long enough to use it.",
        crop: "red amaranth",
        end_day: 12,
        treatments: &[
            ("plain water", 0.0),
            ("half feed", 0.5),
            ("two thirds feed", 0.67),
            ("full feed", 1.0),
        ],
        also: &["height"],
        space: SpaceKind::Rack,
        rack: (4, 4),
        conditions: &[],
        feed: FeedPlan::default(),
        care: CarePlan::default(),
        seed: 20_261_027,
        truth: Truth {
            control_g: 98.0,
            gain_g: vec![0.0, 21.0, 27.0, 33.0],
            level_sd_g: 8.0,
            tray_sd_g: 4.5,
            edge_g: 3.0,
            ec: vec![0.52, 1.13, 1.35, 1.71],
            height_mm: 78.0,
            days: 12,
        },
        days_past: 13,
    }
}

/// A season under way.
fn rocket() -> Script {
    Script {
        name: "Rocket, half or full feed?",
        question: "Does rocket on hemp mats need feed at all, and is half enough?",
        hypothesis: "Half feed does most of the work: rocket stands only eleven days.",
        crop: "rocket",
        end_day: 11,
        treatments: &[("plain water", 0.0), ("half feed", 0.5), ("full feed", 1.0)],
        also: &["height"],
        space: SpaceKind::Rack,
        rack: (4, 3),
        conditions: &[],
        feed: FeedPlan::default(),
        care: CarePlan {
            blackout_days: 2,
            first_feed_day: 3,
            ..CarePlan::default()
        },
        seed: 20_261_119,
        truth: Truth {
            control_g: 84.0,
            gain_g: vec![0.0, 9.0, 12.0],
            level_sd_g: 6.0,
            tray_sd_g: 5.0,
            edge_g: 2.5,
            ec: vec![0.52, 1.13, 1.71],
            height_mm: 62.0,
            days: 11,
        },
        days_past: 5,
    }
}

/// Buckets of still water, that drink: ended.
fn watercress() -> Script {
    Script {
        name: "Watercress in buckets, what does it drink?",
        question: "How much water does a bucket of watercress drink, and does feed make more \
                       of each litre?",
        hypothesis: "Full feed doubles the harvest, and a litre of water then brings half as \
                         much again.",
        crop: "watercress",
        end_day: 30,
        also: &["water_used", "harvest_per_litre"],
        treatments: &[("plain water", 0.0), ("half feed", 0.5), ("full feed", 1.0)],
        space: SpaceKind::Buckets,
        rack: (4, 3),
        conditions: &[
            ("container", "bucket, 10 L, still water"),
            ("medium", "clay pebbles in a net pot"),
            ("seed_weight", "0.2"),
        ],
        feed: FeedPlan {
            ml_a_unit: 1000.0 * BUCKET_L,
            ..FeedPlan::default()
        },
        care: CarePlan {
            blackout_days: 0,
            first_feed_day: 1,
            feed_every: 30,
            read_every: BUCKETS_READ_EVERY,
            ..CarePlan::default()
        },
        seed: 20_261_015,
        truth: Truth {
            control_g: 118.0,
            gain_g: vec![0.0, 92.0, 131.0],
            level_sd_g: 9.0,
            tray_sd_g: 11.0,
            edge_g: 0.0,
            ec: vec![0.52, 1.13, 1.71],
            height_mm: 190.0,
            days: 30,
        },
        days_past: 31,
    }
}

/// Its last day is today: everything stands, and nothing is weighed.
fn kohlrabi() -> Script {
    Script {
        name: "Kohlrabi, does feed pay in ten days?",
        question: "Is feed worth its price on kohlrabi that stands only ten days?",
        hypothesis: "Two thirds feed gives a tenth more: the seed carries the first week by \
                         itself.",
        crop: "kohlrabi",
        end_day: 10,
        treatments: &[("plain water", 0.0), ("two thirds feed", 0.67)],
        also: &[],
        space: SpaceKind::Rack,
        rack: (4, 4),
        conditions: &[],
        feed: FeedPlan::default(),
        care: CarePlan {
            blackout_days: 3,
            first_feed_day: 4,
            ..CarePlan::default()
        },
        seed: READY_SEED,
        truth: Truth {
            control_g: 132.0,
            gain_g: vec![0.0, 17.0],
            level_sd_g: 6.0,
            tray_sd_g: 6.5,
            edge_g: 2.0,
            ec: vec![0.52, 1.35],
            height_mm: 71.0,
            days: 10,
        },
        days_past: 10,
    }
}
