//! A trial as the page sees it. The blind is kept here: treatments of units, seed and nonce leave
//! only after the reveal.

use crate::stations::{Station, next_station, stations};
use iron_twin_core::across::spread::Spread;
use iron_twin_core::ask::cautions::{Caution, cautions};
use iron_twin_core::ask::picture::Layout;
use iron_twin_core::ask::sees::seen_each;
use iron_twin_core::ask::worth::{self, MarginSaid};
use iron_twin_core::catalogue::fixtures::Fixture;
use iron_twin_core::ledger::trust::{Trust, trust};
use iron_twin_core::ledger::{Facts, Known, Ledger, audit};
use iron_twin_core::match_sheet::controls::ControlSaid;
use iron_twin_core::mix::composition::Composition;
use iron_twin_core::place::balance;
use iron_twin_core::place::balance::StartBalance;
use iron_twin_core::place::blind::{KeyEntry, key_text, nonce_text, verify};
use iron_twin_core::place::deal;
use iron_twin_core::place::light::{Uniformity, uniformity};
use iron_twin_core::place::walk::{self, Rotation};
use iron_twin_core::stores::Stores;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::feed::FeedPlan;
use iron_twin_core::trial::question::Ask;
use iron_twin_core::trial::sheet::Sheet;
use iron_twin_core::trial::sheet::differences::Differences;
use iron_twin_core::trial::sheet::rows::{Line, Row};
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::site::SlotLight;
use iron_twin_core::trial::space::Rack;
use iron_twin_store::history::Undone;
use iron_twin_terms::indices::TreatmentIndex;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

/// A unit under its code.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub(crate) struct UnitView {
    /// Blind code.
    pub code: String,
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
    /// Level on which it stands now, after the moves made.
    pub level_now: u32,
    /// Slot in which it stands now.
    pub slot_now: u32,
    /// Where it stands now, in words: `level 2, slot 3`.
    pub place: String,
    /// What its level is called, `level 2`.
    pub level_name: String,
    /// First or last slot of its level.
    pub edge: bool,
    /// What its block is called; null where units are compared over the whole rack.
    pub block: Option<String>,
    /// Place in the walk past the rack, from 0.
    pub walk: usize,
    /// Whether it is on the shelf now: in a swap-over only the systems of the round it is in are.
    pub now: bool,
    /// Index of the treatment; null until the reveal.
    pub treatment: Option<TreatmentIndex>,
    /// Why it was written off.
    pub lost: Option<String>,
}

/// The opened key.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub(crate) struct RevealView {
    /// When it was opened.
    pub at: String,
    /// Day of the trial.
    pub day: u32,
    /// Units weighed by then.
    pub weighed: usize,
    /// Seed of the deal, in decimal.
    pub seed: String,
    /// Nonce of the commitment, in hexadecimal.
    pub nonce: String,
    /// Whether key and nonce give the commitment shown from the start.
    pub verified: bool,
    /// The key as it was sealed: one line `code=treatment` for each unit.
    pub key: String,
    /// Why it was opened before the end; empty where it was not.
    pub reason: String,
}

/// A change of the sealed plan.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub(crate) struct ChangeView {
    /// When.
    pub at: String,
    /// Which field.
    pub field: String,
    /// What it was.
    pub before: String,
    /// What it became.
    pub after: String,
    /// Why.
    pub reason: String,
}

/// The fixture through which what differs reaches the plants.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub(crate) struct Through {
    /// Which.
    pub fixture: Fixture,
    /// As a grower says it.
    pub word: &'static str,
    /// What differs.
    pub factor: String,
    /// What it may serve as a whole: a level, a row, a sill, a site.
    pub level: &'static str,
    /// Whether it has to be asked how far one reaches.
    pub ask: bool,
}

/// A trial with its line and ledger.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub(crate) struct TrialView {
    /// Random id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Version to send back with a change of the plan.
    pub version: i64,
    /// What is asked.
    pub ask: Ask,
    /// The margin in per cent, in the measure's unit and in money.
    pub margin: MarginSaid,
    /// What each treatment gets.
    pub sheet: Sheet,
    /// What is given, side by side; each line says where in the list of each treatment its
    /// application stands.
    pub lines: Vec<Line>,
    /// The whole sheet in words, row by row.
    pub rows: Vec<Row>,
    /// How many things differ.
    pub differences: Differences,
    /// Treatments that others can be compared with, and what that shows.
    pub controls: Vec<ControlSaid>,
    /// What is behind the names of the sheet.
    pub composition: Composition,
    /// Where it stands.
    pub rack: Rack,
    /// Slots of a level that hold a unit.
    pub used_slots: u32,
    /// Units of each treatment.
    pub units_each: usize,
    /// Units of each treatment that a comparison counts: what was dealt as a whole.
    pub seen_each: usize,
    /// How they are laid out, as far as what they can see depends on it.
    pub layout: Layout,
    /// What to know before it is sown.
    pub cautions: Vec<Caution>,
    /// What was dealt as a whole, in the singular: the unit, or the lamp, pump, reservoir or level
    /// that serves several.
    pub dealt_word: &'static str,
    /// Several of them.
    pub dealt_words: &'static str,
    /// Whether whole levels are what counts.
    pub by_level: bool,
    /// The fixture through which what differs comes, and the factor; null where it belongs to each
    /// place.
    pub through: Option<Through>,
    /// In how many ways the rack could be dealt.
    pub ways: f64,
    /// Split plot: the factor of the lamp or pump that serves a whole level.
    pub fixture: Option<String>,
    /// What stands in a place: tray, bucket, jar, pot or plot.
    pub unit_word: &'static str,
    /// Several of them.
    pub units_word: &'static str,
    /// What each level is called, from the lowest.
    pub level_names: Vec<String>,
    /// The round it is in, from 1, of how many; only a swap-over has more than one.
    pub round: u32,
    /// Number of rounds.
    pub rounds: u32,
    /// Light of the places measured.
    pub light: Vec<SlotLight>,
    /// How even it is.
    pub uniformity: Option<Uniformity>,
    /// How evenly the deal shares the starting sizes; null where none were taken.
    pub start_balance: Option<StartBalance>,
    /// What the sites outdoors are like.
    pub site_cards: Vec<SiteCard>,
    /// The feed.
    pub feed: FeedPlan,
    /// When the work falls.
    pub care: CarePlan,
    /// The rotation, where one is planned and the units are dealt.
    pub rotation: Option<Rotation>,
    /// Day on which sowing is meant, `YYYY-MM-DD`.
    pub sow_planned: Option<String>,
    /// Day 0, `YYYY-MM-DD`.
    pub sown_on: Option<String>,
    /// Days since sowing.
    pub day: Option<u32>,
    /// Day on which the last record that decides was taken, once all that stand have theirs.
    pub ended_on: Option<u32>,
    /// When the first record sealed the plan.
    pub sealed_at: Option<String>,
    /// Commitment to the key, from the deal on.
    pub commitment: Option<String>,
    /// The opened key.
    pub reveal: Option<RevealView>,
    /// Units, ordered by code.
    pub units: Vec<UnitView>,
    /// Number of readings taken.
    pub readings: usize,
    /// Changes of the sealed plan.
    pub changes: Vec<ChangeView>,
    /// How much units of one treatment are taken to differ, and from what.
    pub spread: Spread,
    /// The band of eight stations.
    pub stations: Vec<Station>,
    /// Station at which to go on.
    pub next: &'static str,
    /// The fairness ledger.
    pub ledger: Ledger,
    /// How far the result can be believed; null until the reveal.
    pub trust: Option<Trust>,
    /// What the next undo takes back.
    pub undo: Option<UndoneView>,
}

fn reveal_view(trial: &Trial) -> Option<RevealView> {
    let (reveal, deal) = (trial.reveal.as_ref()?, trial.deal.as_ref()?);
    let key: Vec<KeyEntry> = trial
        .units
        .iter()
        .map(|u| KeyEntry {
            code: u.code.clone(),
            treatment: trial.plan.sheet.treatments[u.treatment].name.clone(),
        })
        .collect();
    Some(RevealView {
        at: reveal.at.to_string(),
        day: reveal.day,
        weighed: reveal.weighed,
        seed: deal.seed.to_string(),
        nonce: nonce_text(&deal.nonce),
        verified: verify(&deal.commitment, &deal.nonce, &key),
        key: key_text(&key),
        reason: reveal.reason.clone(),
    })
}

/// Slots of a level that hold a unit.
pub(crate) fn used_slots(trial: &Trial) -> u32 {
    trial
        .plan
        .rack
        .used_slots(trial.plan.sheet.treatments.len())
}

/// The units as they may be seen now.
pub(crate) fn units(trial: &Trial) -> Vec<UnitView> {
    let (rack, used) = (&trial.plan.rack, used_slots(trial));
    let blocks = rack.block_names(trial.plan.treatments());
    trial
        .units
        .iter()
        .zip(walk::places(trial))
        .zip(walk::stands(trial))
        .map(|((u, walk), now)| UnitView {
            code: u.code.clone(),
            level: u.position.level,
            slot: u.position.slot,
            level_now: now.level,
            slot_now: now.slot,
            place: rack.place_name(now),
            level_name: rack.level_name(now.level),
            edge: rack.has_edges() && u.position.is_edge(used),
            block: blocks(u.position),
            walk,
            now: trial.is_now(u),
            treatment: trial.reveal.is_some().then_some(u.treatment),
            lost: u.lost.as_ref().map(|l| l.reason.clone()),
        })
        .collect()
}

/// How evenly the deal shares the starting sizes.
fn start_balance(trial: &Trial) -> Option<StartBalance> {
    // The gap of a sealed deal would tell the key.
    let units = if trial.tells_deal() {
        trial.placement()
    } else {
        Vec::new()
    };
    balance::balance(&trial.plan.rack, &units, trial.plan.sheet.treatments.len())
}

/// The fixture through which what differs comes.
fn through(trial: &Trial) -> Option<Through> {
    let (fixture, factor) = trial.plan.sheet.through()?;
    let level = trial.plan.rack.kind.level();
    Some(Through {
        fixture,
        word: fixture.word(),
        factor,
        level,
        ask: trial.unsaid_fixture().is_some(),
    })
}

/// A trial as the page sees it.
pub(crate) fn trial_view(
    trial: &Trial,
    stores: &Stores,
    spread: Spread,
    known: Known,
    today: Date,
) -> TrialView {
    let facts = Facts::of(trial, stores, &known, today);
    let ledger = audit(&facts);
    let treatments = trial.plan.sheet.treatments.len();
    let light = light(trial);
    TrialView {
        id: trial.id.clone(),
        name: trial.plan.name.clone(),
        version: trial.version,
        ask: trial.plan.ask.clone(),
        margin: worth::said(&trial.plan.ask),
        sheet: trial.plan.sheet.clone(),
        lines: trial.plan.sheet.lines(),
        rows: trial.plan.sheet.rows(),
        differences: trial.plan.sheet.differences(),
        controls: trial.plan.sheet.controls(),
        composition: facts.composition.unwrap_or_default(),
        rack: trial.plan.rack.clone(),
        used_slots: used_slots(trial),
        units_each: trial.units_each(),
        seen_each: seen_each(trial),
        layout: Layout::of(trial),
        cautions: cautions(trial, spread.cv_percent),
        dealt_word: trial.dealt_words().0,
        dealt_words: trial.dealt_words().1,
        by_level: trial.is_by_level(),
        through: through(trial),
        ways: deal::ways(&trial.plan.rack, treatments),
        fixture: fixture(trial),
        unit_word: trial.plan.rack.kind.unit(),
        units_word: trial.plan.rack.kind.units(),
        level_names: (1..=trial.plan.rack.levels)
            .map(|level| trial.plan.rack.level_name(level))
            .collect(),
        round: trial.round,
        rounds: rounds(trial),
        uniformity: uniformity(&light),
        light,
        start_balance: start_balance(trial),
        site_cards: trial.plan.sites.clone(),
        feed: trial.plan.feed.clone(),
        care: trial.plan.care.clone(),
        rotation: walk::rotation(trial),
        sow_planned: trial.plan.sow_planned.map(|d| d.to_string()),
        sown_on: trial.sown_on.map(|d| d.to_string()),
        day: trial.day(today),
        ended_on: trial.ended_on(),
        sealed_at: trial.sealed_at.map(|at| at.to_string()),
        commitment: trial.deal.as_ref().map(|d| d.commitment.clone()),
        reveal: reveal_view(trial),
        units: units(trial),
        readings: trial.records.readings(),
        changes: changes(trial),
        spread,
        stations: stations(trial, &ledger, facts.sees_percent, today),
        next: next_station(trial, trial.all_recorded(), today),
        trust: trial.reveal.as_ref().map(|_| trust(&ledger, &known.claims)),
        ledger,
        undo: None,
    }
}

/// The light of the places that the rack has now.
fn light(trial: &Trial) -> Vec<SlotLight> {
    let within =
        |l: &&SlotLight| l.level <= trial.plan.rack.levels && l.slot <= trial.plan.rack.slots;
    trial.plan.light.iter().filter(within).cloned().collect()
}

/// The factor that lamps or pumps bring, where whole levels were dealt to it.
fn fixture(trial: &Trial) -> Option<String> {
    trial
        .plan
        .sheet
        .by_fixture()
        .filter(|_| trial.plan.rack.settings() > 1)
        .map(|(factor, _)| factor.name)
}

/// How many rounds the plan has.
fn rounds(trial: &Trial) -> u32 {
    if trial.plan.rack.has_rounds() {
        trial.plan.rack.levels
    } else {
        1
    }
}

/// What was changed of the sealed plan.
fn changes(trial: &Trial) -> Vec<ChangeView> {
    trial
        .changes
        .iter()
        .map(|c| ChangeView {
            at: c.at.to_string(),
            field: c.change.field.to_owned(),
            before: c.change.before.clone(),
            after: c.change.after.clone(),
            reason: c.reason.clone(),
        })
        .collect()
}

/// A write that is taken back, or that the next undo would take back.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UndoneView {
    /// What the write had done.
    pub action: String,
    /// Whether it was a change of the plan; a record otherwise.
    pub plan: bool,
}

impl From<Undone> for UndoneView {
    fn from(Undone { action, plan }: Undone) -> Self {
        Self { action, plan }
    }
}
