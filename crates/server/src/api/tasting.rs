//! Blind tasting: beginning one, what is served to whom, covered cups, the seat on a taster's
//! phone, and what it tells.

use super::labels::{base_of, qr};
use crate::access::Who;
use crate::app::App;
use crate::clock::day_at;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use iron_twin_core::trial::Trial;
use iron_twin_core::weigh::table::{CAUTIONS, FOR_TASTERS, barred};
use iron_twin_core::weigh::tasting::{
    Answer, Asked, Attribute, Cup, Foretold, LIKING, Seat, Setting, Told, Way, foretold,
};
use iron_twin_store::Store;
use iron_twin_store::place::Chance;
use iron_twin_store::tasting::{Begun, KeptTasting, on_the_table};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// What can go into a cup.
#[derive(Serialize, ToSchema)]
pub(crate) struct CupOffer {
    /// Which treatment.
    treatment: TreatmentIndex,
    /// Its name.
    name: String,
    /// Why it stays off the table; empty where nothing is known against it.
    barred: Vec<String>,
}

/// What can be asked beside the liking.
#[derive(Serialize, ToSchema)]
pub(crate) struct AttributeView {
    /// Its key.
    key: Attribute,
    /// As a grower says it.
    name: &'static str,
    /// What 1 stands for.
    least: &'static str,
    /// What 9 stands for.
    most: &'static str,
}

/// A cup.
#[derive(Serialize, ToSchema)]
pub(crate) struct CupView {
    /// Its code of three figures; null for a covered cup.
    code: Option<u16>,
    /// Codes of the units it holds; empty for who must not know.
    from: Vec<String>,
}

/// What stands before one taster.
#[derive(Serialize, ToSchema)]
pub(crate) struct SeatView {
    /// Its number, from 1.
    seat: u32,
    /// Cups from the left; covered ones by the codes of their units, in an order that says nothing
    /// until it is known.
    cups: Vec<CupView>,
    /// Whether there is an answer.
    answered: bool,
    /// Whether it is known how the cups stood.
    known: bool,
    /// Who tasted, where they said.
    taster: String,
}

/// A tasting.
#[derive(Serialize, ToSchema)]
pub(crate) struct TastingView {
    /// Its number.
    no: i64,
    /// What is asked.
    asked: Asked,
    /// How it is kept blind.
    way: Way,
    /// What is asked beside the liking.
    attributes: Vec<Attribute>,
    /// Names of what is compared; empty for who must not know.
    of: Vec<String>,
    /// When it began (RFC 3339).
    #[schema(value_type = String)]
    begun_at: Timestamp,
    /// When answers end.
    #[schema(value_type = String)]
    until: Timestamp,
    /// Whether it was closed.
    closed: bool,
    /// Whether answers are taken.
    open: bool,
    /// What stands before each.
    seats: Vec<SeatView>,
    /// What it tells; null while it runs and until the key of the trial is open.
    told: Option<Told>,
    /// The same in sentences.
    said: Vec<String>,
}

/// The tastings of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct TastingsView {
    /// What can go into a cup; empty for who must not know.
    offers: Vec<CupOffer>,
    /// Whether who asks may begin one and see what is served.
    mine: bool,
    /// Why none can be begun yet; null where one can.
    waits: Option<&'static str>,
    /// What everybody should know who serves or tastes.
    cautions: Vec<&'static str>,
    /// The nine points of liking, from 1.
    liking: Vec<&'static str>,
    /// What can be asked beside it.
    attributes: Vec<AttributeView>,
    /// Them, oldest first.
    tastings: Vec<TastingView>,
}

fn attributes(of: &[Attribute]) -> Vec<AttributeView> {
    let one = |key: &Attribute| {
        let (least, most) = key.ends();
        AttributeView {
            key: *key,
            name: key.name(),
            least,
            most,
        }
    };
    of.iter().map(one).collect()
}

fn name_of(trial: &Trial, of: TreatmentIndex) -> String {
    trial.plan.sheet.treatments[of].name.clone()
}

/// What stands before a taster, as far as it may be known.
fn seat_view(trial: &Trial, kept: &KeptTasting, seat: &Seat, mine: bool) -> SeatView {
    let code = |unit: UnitIndex| trial.units[unit].code.clone();
    let cup = |cup: &Cup| CupView {
        code: cup.code,
        from: match cup.unit {
            Some(unit) => vec![code(unit)],
            None if mine => on_the_table(trial, cup.of).into_iter().map(code).collect(),
            None => Vec::new(),
        },
    };
    let mut cups: Vec<CupView> = seat.cups.iter().map(cup).collect();
    if kept.is.way == Way::Covered && !seat.known {
        cups.sort_by(|a, b| a.from.cmp(&b.from));
    }
    SeatView {
        seat: seat.seat,
        cups,
        answered: seat.answer.is_some(),
        known: seat.known && seat.answer.is_some(),
        taster: seat.taster.clone(),
    }
}

fn tasting_view(
    trial: &Trial,
    kept: &KeptTasting,
    mine: bool,
    now: Timestamp,
) -> Result<TastingView, Problem> {
    let is = &kept.is;
    let (named, closed) = (trial.reveal.is_some(), is.closed_at.is_some());
    let told = if named && closed {
        Some(is.told().map_err(|e| Problem::internal(&e))?)
    } else {
        None
    };
    let said = match &told {
        Some(told) => is.said(told, &|of| name_of(trial, of)),
        None if closed => {
            vec![
                "The answers are kept. What they tell is said by name once the key of the trial \
                  is open."
                    .into(),
            ]
        }
        None => Vec::new(),
    };
    Ok(TastingView {
        no: kept.no,
        asked: is.asked,
        way: is.way,
        attributes: is.attributes.clone(),
        of: is
            .of
            .iter()
            .filter(|_| mine || named)
            .map(|of| name_of(trial, *of))
            .collect(),
        begun_at: is.begun_at,
        until: is.until,
        closed,
        open: is.takes_answers(now),
        seats: is
            .seats
            .iter()
            .map(|seat| seat_view(trial, kept, seat, mine))
            .collect(),
        told,
        said,
    })
}

fn view(store: &Store, id: &str, who: &Who, today: u32) -> Result<Json<TastingsView>, Problem> {
    let trial = store.trial(id)?;
    let mine = who.sees_key();
    let mut offers = Vec::new();
    if mine || trial.reveal.is_some() {
        let stores = store.shelves()?;
        let cut = trial.ended_on().unwrap_or(today);
        let offer = |of: TreatmentIndex| CupOffer {
            treatment: of,
            name: name_of(&trial, of),
            barred: barred(&trial, &stores, of, cut),
        };
        offers = trial.plan.sheet.indices().map(offer).collect();
    }
    let now = Timestamp::now();
    let kept = store.tastings(id)?;
    Ok(Json(TastingsView {
        offers,
        mine,
        waits: trial
            .sealed_at
            .is_none()
            .then_some("Nothing was recorded yet, so there is nothing to taste."),
        cautions: CAUTIONS.to_vec(),
        liking: LIKING.to_vec(),
        attributes: attributes(&Attribute::ALL),
        tastings: kept
            .iter()
            .map(|own| tasting_view(&trial, own, mine, now))
            .collect::<Result<_, Problem>>()?,
    }))
}

/// The day since sowing; 0 before it.
fn today(store: &Store, id: &str) -> Result<u32, Problem> {
    Ok(day_at(store, id, Timestamp::now())?.unwrap_or(0))
}

async fn answered(app: App, id: String, who: Who) -> Result<Json<TastingsView>, Problem> {
    app.run(move |store| {
        let day = today(store, &id)?;
        view(store, &id, &who, day)
    })
    .await
}

/// The tastings of a trial.
#[utoipa::path(
    get,
    operation_id = "tastings_get",
    path = "/trials/{id}/tastings",
    params(("id" = String, Path)),
    responses((status = 200, body = TastingsView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<TastingsView>, Problem> {
    answered(app, id, who).await
}

/// A tasting as it is begun.
#[derive(Deserialize, ToSchema)]
pub(crate) struct TastingSent {
    /// What is asked.
    asked: Asked,
    /// How it is kept blind.
    way: Way,
    /// What is asked beside the liking.
    #[serde(default)]
    attributes: Vec<Attribute>,
    /// What is compared; of a liking the first is what the others are held against.
    of: Vec<TreatmentIndex>,
    /// Tasters; of covered cups servings.
    seats: u32,
    /// Hours for which answers are taken.
    hours: u32,
}

/// Begins a tasting: what is served to whom is dealt now. The owner alone may.
#[utoipa::path(
    post,
    operation_id = "tastings_begin",
    path = "/trials/{id}/tastings",
    params(("id" = String, Path)),
    request_body = TastingSent,
    responses(
        (status = 201, body = TastingsView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn begin(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<TastingSent>,
) -> Result<(StatusCode, Json<TastingsView>), Problem> {
    app.run(move |store| {
        let TastingSent {
            asked,
            way,
            attributes,
            of,
            seats,
            hours,
        } = sent.body;
        let day = today(store, &id)?;
        let setting = Setting {
            asked,
            way,
            attributes,
            of,
            seats,
        };
        store.begin_tasting(
            &sent.stamp,
            &id,
            &Begun {
                setting,
                hours,
                day,
                seed: Chance::fresh().seed,
            },
        )?;
        Ok((StatusCode::CREATED, view(store, &id, &who, day)?))
    })
    .await
}

/// Closes a tasting: no answer is taken any more. The owner alone may.
#[utoipa::path(post, operation_id = "tastings_close", path = "/trials/{id}/tastings/{no}/close",
    params(("id" = String, Path), ("no" = i64, Path)),
    responses((status = 200, body = TastingsView), (status = 404, body = Problem)))]
pub(crate) async fn close(
    State(app): State<App>,
    who: Who,
    Path((id, no)): Path<(String, i64)>,
    sent: Sent<()>,
) -> Result<Json<TastingsView>, Problem> {
    let trial = id.clone();
    app.run(move |store| Ok(store.close_tasting(&sent.stamp, &trial, no)?))
        .await?;
    answered(app, id, who).await
}

/// What a taster said.
#[derive(Deserialize, ToSchema)]
pub(crate) struct AnswerSent {
    /// What was said of the cups.
    #[serde(flatten)]
    answer: Answer,
    /// Who tasted, where they want to say.
    #[serde(default)]
    taster: String,
}

/// Keeps what was said of covered cups, before it is looked under them.
#[utoipa::path(
    post,
    operation_id = "tastings_answer",
    path = "/trials/{id}/tastings/{no}/seats/{seat}/answer",
    params(("id" = String, Path), ("no" = i64, Path), ("seat" = u32, Path)),
    request_body = AnswerSent,
    responses(
        (status = 200, body = TastingsView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn answer(
    State(app): State<App>,
    who: Who,
    Path((id, no, seat)): Path<(String, i64, u32)>,
    sent: Sent<AnswerSent>,
) -> Result<Json<TastingsView>, Problem> {
    let trial = id.clone();
    app.run(move |store| {
        let AnswerSent { answer, taster } = &sent.body;
        Ok(store.taste_covered(&sent.stamp, (&trial, no, seat), answer, taster)?)
    })
    .await?;
    answered(app, id, who).await
}

/// How covered cups stood.
#[derive(Deserialize, ToSchema)]
pub(crate) struct StoodSent {
    /// Codes of the units, from the left.
    codes: Vec<String>,
}

/// Keeps how covered cups stood: once, after the answer.
#[utoipa::path(
    post,
    operation_id = "tastings_uncover",
    path = "/trials/{id}/tastings/{no}/seats/{seat}/uncovered",
    params(("id" = String, Path), ("no" = i64, Path), ("seat" = u32, Path)),
    request_body = StoodSent,
    responses(
        (status = 200, body = TastingsView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn uncover(
    State(app): State<App>,
    who: Who,
    Path((id, no, seat)): Path<(String, i64, u32)>,
    sent: Sent<StoodSent>,
) -> Result<Json<TastingsView>, Problem> {
    let trial = id.clone();
    app.run(move |store| Ok(store.uncover(&sent.stamp, (&trial, no, seat), &sent.body.codes)?))
        .await?;
    answered(app, id, who).await
}

/// Where the links lead.
#[derive(Deserialize, IntoParams)]
pub(crate) struct CardsQuery {
    /// Address under which a phone finds this program, for instance `http://192.168.1.20:4747`.
    base: String,
}

/// The card that stands at a seat.
#[derive(Serialize, ToSchema)]
pub(crate) struct Card {
    /// Number of the seat.
    seat: u32,
    /// Codes of its cups from the left.
    codes: Vec<u16>,
    /// Address of its page; it ends with the tasting.
    link: String,
    /// The address as a QR code: one word a row, 1 for a dark module.
    qr: Vec<String>,
}

/// The cards of a tasting, to print or to show. The owner alone sees them.
#[utoipa::path(
    get,
    operation_id = "tastings_cards",
    path = "/trials/{id}/tastings/{no}/cards",
    params(("id" = String, Path), ("no" = i64, Path), CardsQuery),
    responses(
        (status = 200, body = Vec<Card>),
        (status = 403, body = Problem),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn cards(
    State(app): State<App>,
    who: Who,
    Path((id, no)): Path<(String, i64)>,
    Query(query): Query<CardsQuery>,
) -> Result<Json<Vec<Card>>, Problem> {
    let base = base_of(&query.base)?;
    if !who.sees_key() {
        let detail = "Who lays the table has the cards.";
        return Err(Problem::new(
            StatusCode::FORBIDDEN,
            "not_yours",
            "That is the owner's",
            detail,
        ));
    }
    app.run(move |store| {
        let kept = store.tastings(&id)?.into_iter().find(|own| own.no == no);
        let kept = kept.ok_or_else(|| Problem::not_found("there is no such tasting"))?;
        let card = |(seat, token): (&Seat, &Option<String>)| {
            let link = format!("{base}/taste/{}", token.as_deref()?);
            let codes = seat.cups.iter().filter_map(|cup| cup.code).collect();
            Some(store.figures.code(&link, || qr(&link)).map(|qr| Card {
                seat: seat.seat,
                codes,
                link: link.clone(),
                qr,
            }))
        };
        let cards = kept
            .is
            .seats
            .iter()
            .zip(&kept.tokens)
            .filter_map(card)
            .collect::<Result<_, Problem>>()?;
        Ok(Json(cards))
    })
    .await
}

/// What is foretold.
#[derive(Deserialize, IntoParams)]
pub(crate) struct ForetoldQuery {
    /// What is asked.
    asked: Asked,
    /// Answers.
    answers: usize,
}

/// What so many answers could see.
#[utoipa::path(
    get,
    operation_id = "tasting_foretold",
    path = "/tasting/foretold",
    params(ForetoldQuery),
    responses((status = 200, body = Foretold), (status = 422, body = Problem)),
)]
pub(crate) async fn foresee(Query(query): Query<ForetoldQuery>) -> Result<Json<Foretold>, Problem> {
    foretold(query.asked, query.answers)
        .map(Json)
        .map_err(|e| Problem::refused("answers", e.to_string()))
}

/// A seat, as the taster's phone sees it: nothing but what is asked.
#[derive(Serialize, ToSchema)]
pub(crate) struct SeatPage {
    /// Its number.
    seat: u32,
    /// What is tasted.
    crop: String,
    /// What is asked.
    asked: Asked,
    /// Codes of the cups, from the left.
    codes: Vec<u16>,
    /// The nine points of liking, from 1.
    liking: Vec<&'static str>,
    /// What is asked beside it.
    attributes: Vec<AttributeView>,
    /// What a taster should know before.
    cautions: Vec<&'static str>,
    /// What was answered already.
    answer: Option<Answer>,
    /// Who answered.
    taster: String,
    /// Whether answers are taken.
    open: bool,
}

fn seat_page(store: &Store, token: &str) -> Result<Json<SeatPage>, Problem> {
    let (kept, seat) = store.seat(token)?;
    let trial = store.trial(&kept.trial)?;
    let own = kept.is.seats.iter().find(|s| s.seat == seat);
    let own = own.ok_or_else(|| Problem::not_found("there is no such seat"))?;
    Ok(Json(SeatPage {
        seat,
        crop: trial.plan.ask.crop.clone(),
        asked: kept.is.asked,
        codes: own.cups.iter().filter_map(|cup| cup.code).collect(),
        liking: LIKING.to_vec(),
        attributes: attributes(&kept.is.attributes),
        cautions: FOR_TASTERS.to_vec(),
        answer: own.answer.clone(),
        taster: own.taster.clone(),
        open: kept.is.takes_answers(Timestamp::now()),
    }))
}

/// A seat by its token: no sign-in.
#[utoipa::path(
    get,
    operation_id = "taste_get",
    path = "/taste/{token}",
    params(("token" = String, Path)),
    responses((status = 200, body = SeatPage), (status = 404, body = Problem)),
)]
pub(crate) async fn seat(
    State(app): State<App>,
    Path(token): Path<String>,
) -> Result<Json<SeatPage>, Problem> {
    app.run(move |store| seat_page(store, &token)).await
}

/// Keeps what a taster said; until the tasting ends a later answer takes the place of an earlier.
#[utoipa::path(
    post,
    operation_id = "taste_answer",
    path = "/taste/{token}",
    params(("token" = String, Path)),
    request_body = AnswerSent,
    responses(
        (status = 200, body = SeatPage),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn taste(
    State(app): State<App>,
    Path(token): Path<String>,
    sent: Sent<AnswerSent>,
) -> Result<Json<SeatPage>, Problem> {
    app.run(move |store| {
        let AnswerSent { answer, taster } = &sent.body;
        let mut stamp = sent.stamp;
        "taster".clone_into(&mut stamp.who);
        store.taste(&stamp, &token, answer, taster)?;
        seat_page(store, &token)
    })
    .await
}
