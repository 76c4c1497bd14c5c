//! People: who may sign in, and signing in and out.

use crate::access::{Who, asks, hash, sign_in as let_in};
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use crate::tries::Peer;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_store::Store;
use iron_twin_store::people::Role;
use serde::{Deserialize, Serialize};
use tower_sessions::Session;
use utoipa::ToSchema;

/// What somebody may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum RoleSent {
    /// Everything.
    Owner,
    /// Takes records, blind.
    Recorder,
    /// Looks, blind.
    Viewer,
}

impl From<Role> for RoleSent {
    fn from(role: Role) -> Self {
        match role {
            Role::Owner => Self::Owner,
            Role::Recorder => Self::Recorder,
            Role::Viewer => Self::Viewer,
        }
    }
}

impl From<RoleSent> for Role {
    fn from(role: RoleSent) -> Self {
        match role {
            RoleSent::Owner => Self::Owner,
            RoleSent::Recorder => Self::Recorder,
            RoleSent::Viewer => Self::Viewer,
        }
    }
}

/// Who one is.
#[derive(Serialize, ToSchema)]
pub(crate) struct Me {
    /// Name; null where one has to sign in first.
    name: Option<String>,
    /// What one may do; null where one has to sign in first.
    role: Option<RoleSent>,
    /// Whether one has signed in, and can sign out.
    signed_in: bool,
}

fn me_of(who: Option<Who>) -> Me {
    let signed_in = who.as_ref().is_some_and(|w| w.name != "owner");
    Me {
        name: who.as_ref().map(|w| w.name.clone()),
        role: who.map(|w| w.role.into()),
        signed_in,
    }
}

/// Who one is here.
#[utoipa::path(get, operation_id = "people_me", path = "/me", responses((status = 200, body = Me)))]
pub(crate) async fn me(State(app): State<App>, session: Session) -> Result<Json<Me>, Problem> {
    Ok(Json(me_of(asks(&app, &session).await?)))
}

/// Name and passphrase.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SignIn {
    /// Name.
    name: String,
    /// Passphrase.
    passphrase: String,
}

/// Signs this browser in.
#[utoipa::path(
    post,
    operation_id = "people_sign_in",
    path = "/sign-in",
    request_body = SignIn,
    responses(
        (status = 200, body = Me),
        (status = 403, body = Problem),
        (status = 429, body = Problem),
    ),
)]
pub(crate) async fn sign_in(
    State(app): State<App>,
    session: Session,
    peer: Peer,
    Json(sent): Json<SignIn>,
) -> Result<Json<Me>, Problem> {
    let who = let_in(&app, &session, peer, (sent.name, sent.passphrase)).await?;
    Ok(Json(me_of(Some(who))))
}

/// Signs this browser out.
#[utoipa::path(
    post,
    operation_id = "people_sign_out",
    path = "/sign-out",
    responses((status = 204)),
)]
pub(crate) async fn sign_out(session: Session) -> Result<StatusCode, Problem> {
    session.flush().await.map_err(|e| Problem::internal(&e))?;
    Ok(StatusCode::NO_CONTENT)
}

/// Somebody who can sign in.
#[derive(Serialize, ToSchema)]
pub(crate) struct PersonView {
    /// Random id.
    id: String,
    /// Name.
    name: String,
    /// What they may do.
    role: RoleSent,
}

/// Everybody, and whether this computer too asks.
#[derive(Serialize, ToSchema)]
pub(crate) struct PeopleView {
    /// By name.
    people: Vec<PersonView>,
    /// Whether this computer too asks who it is.
    ask_here: bool,
}

fn view(store: &Store) -> Result<Json<PeopleView>, Problem> {
    let people = store.people()?.into_iter().map(|p| PersonView {
        id: p.id,
        name: p.name,
        role: p.role.into(),
    });
    Ok(Json(PeopleView {
        people: people.collect(),
        ask_here: store.asks_here()?,
    }))
}

/// Everybody who can sign in; the owner's.
#[utoipa::path(
    get,
    operation_id = "people_list",
    path = "/people",
    responses((status = 200, body = PeopleView), (status = 403, body = Problem)),
)]
pub(crate) async fn list(State(app): State<App>) -> Result<Json<PeopleView>, Problem> {
    app.run(|store| view(store)).await
}

/// Somebody new.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PersonSent {
    /// Name.
    name: String,
    /// What they may do.
    role: RoleSent,
    /// Passphrase, at least eight letters.
    passphrase: String,
}

/// Lets somebody in. The first is an owner.
#[utoipa::path(post, operation_id = "people_add", path = "/people", request_body = PersonSent,
    responses((status = 200, body = PeopleView), (status = 422, body = Problem)))]
pub(crate) async fn add(
    State(app): State<App>,
    sent: Sent<PersonSent>,
) -> Result<Json<PeopleView>, Problem> {
    app.run(move |store| {
        let hashed = hash(&sent.body.passphrase)?;
        store.add_person(&sent.stamp, &sent.body.name, sent.body.role.into(), &hashed)?;
        view(store)
    })
    .await
}

/// Takes somebody out; their browsers are signed out.
#[utoipa::path(
    post,
    operation_id = "people_remove",
    path = "/people/{id}/remove",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = PeopleView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn remove(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<PeopleView>, Problem> {
    app.run(move |store| {
        store.remove_person(&sent.stamp, &id)?;
        view(store)
    })
    .await
}

/// Whether this computer too asks who it is.
#[derive(Deserialize, ToSchema)]
pub(crate) struct AskHereSent {
    /// Whether it asks.
    ask: bool,
}

/// Sets whether this computer too asks who it is.
#[utoipa::path(
    post,
    operation_id = "people_ask_here",
    path = "/ask-here",
    request_body = AskHereSent,
    responses((status = 200, body = PeopleView), (status = 409, body = Problem)),
)]
pub(crate) async fn ask_here(
    State(app): State<App>,
    sent: Sent<AskHereSent>,
) -> Result<Json<PeopleView>, Problem> {
    app.run(move |store| {
        store.set_ask_here(&sent.stamp, sent.body.ask)?;
        view(store)
    })
    .await
}
