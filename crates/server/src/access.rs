//! Who asks, and what they may: owner, recorder, viewer.
//!
//! On this computer alone the program needs no sign-in and everybody is the owner, until people are
//! asked here too. Reached from elsewhere, everybody signs in. What a role may is said in one
//! place, [`may`]; what a recorder or viewer must not see before the key is opened is taken out in
//! `blind.rs`.

use crate::app::App;
use crate::checks::Room;
use crate::error::Problem;
use crate::tries::Peer;
use argon2::password_hash::phc::{Output, PasswordHash};
use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use argon2::{Argon2, Params};
use async_trait::async_trait;
use axum::extract::{FromRequestParts, Request, State};
use axum::http::request::Parts;
use axum::http::{Method, StatusCode};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use iron_twin_core::trial::Trial;
use iron_twin_store::people::Role;
use iron_twin_store::{Stamp, Store, StoreError};
use jiff::Timestamp;
use std::sync::Arc;
use tower_sessions::cookie::SameSite;
use tower_sessions::session::{Id, Record};
use tower_sessions::session_store::{Error, Result as SessionResult};
use tower_sessions::{Expiry, Session, SessionManagerLayer, SessionStore};

/// Who sends a request.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Who {
    /// Name, as the history keeps it; `owner` where nobody signed in.
    pub name: String,
    /// What they may do.
    pub role: Role,
}

impl Who {
    fn nobody_signed_in() -> Self {
        Self {
            name: "owner".into(),
            role: Role::Owner,
        }
    }

    /// Whether the key may be seen before it is opened.
    pub(crate) fn sees_key(&self) -> bool {
        self.role == Role::Owner
    }

    /// Refuses what would tell the key to somebody who must not know it yet.
    pub(crate) fn unless_sealed(&self, trial: &Trial) -> Result<(), Problem> {
        if self.sees_key() || trial.reveal.is_some() {
            return Ok(());
        }
        Err(Problem::sealed())
    }
}

impl<S: Send + Sync> FromRequestParts<S> for Who {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Problem> {
        Ok(parts
            .extensions
            .get::<Self>()
            .cloned()
            .unwrap_or_else(Self::nobody_signed_in))
    }
}

/// Key of the person in a session.
const PERSON: &str = "person";
/// Key of the day on which a session was last used.
const LAST_DAY: &str = "last_day";
/// Days after which a browser that was not used signs in anew.
const DAYS: i64 = 30;

/// Sessions in the data file, so that a restart signs nobody out.
#[derive(Clone)]
pub(crate) struct Sessions(pub Arc<Store>);

impl std::fmt::Debug for Sessions {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Sessions")
    }
}

impl Sessions {
    async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> iron_twin_store::Result<T> + Send + 'static,
    ) -> SessionResult<T> {
        let store = Arc::clone(&self.0);
        let done = tokio::task::spawn_blocking(move || work(&store)).await;
        done.map_err(|e| Error::Backend(e.to_string()))?
            .map_err(|e| Error::Backend(e.to_string()))
    }
}

#[async_trait]
impl SessionStore for Sessions {
    async fn create(&self, record: &mut Record) -> SessionResult<()> {
        // 128 random bits do not meet twice; saving is creating.
        self.save(record).await
    }

    async fn save(&self, record: &Record) -> SessionResult<()> {
        let text = serde_json::to_string(record).map_err(|e| Error::Encode(e.to_string()))?;
        let person = record
            .data
            .get(PERSON)
            .and_then(|v| v.as_str())
            .map(str::to_owned);
        let (id, until) = (record.id.to_string(), record.expiry_date.unix_timestamp());
        self.run(move |store| {
            store.keep_session(
                &Stamp::owner(Timestamp::now()),
                &id,
                person.as_deref(),
                &text,
                until,
            )
        })
        .await
    }

    async fn load(&self, id: &Id) -> SessionResult<Option<Record>> {
        let id = id.to_string();
        let found = self
            .run(move |store| store.session(&id, Timestamp::now().as_second()))
            .await?;
        found
            .map(|text| serde_json::from_str(&text).map_err(|e| Error::Decode(e.to_string())))
            .transpose()
    }

    async fn delete(&self, id: &Id) -> SessionResult<()> {
        let id = id.to_string();
        self.run(move |store| store.end_session(&Stamp::owner(Timestamp::now()), &id))
            .await
    }
}

/// The cookie of signed-in browsers: not for scripts, and not sent from other sites.
pub(crate) fn sessions(store: Arc<Store>) -> SessionManagerLayer<Sessions> {
    SessionManagerLayer::new(Sessions(store))
        .with_name("iron_twin")
        .with_same_site(SameSite::Strict)
        // Phones in the house use plain HTTP.
        .with_secure(false)
        .with_expiry(Expiry::OnInactivity(time::Duration::days(DAYS)))
}

/// Longest passphrase, bytes.
const MOST_PASSPHRASE: usize = 1000;
/// Longest name that is looked for.
const MOST_NAME: usize = 60;
/// Shortest passphrase.
const LEAST_LETTERS: usize = 8;

/// Argon2id hash of a passphrase, salted.
pub(crate) fn hash(passphrase: &str) -> Result<String, Problem> {
    if passphrase.chars().count() < LEAST_LETTERS || passphrase.len() > MOST_PASSPHRASE {
        return Err(Problem::refused(
            "passphrase",
            format!("a passphrase has at least {LEAST_LETTERS} letters"),
        ));
    }
    let hashed: PasswordHash = Argon2::default()
        .hash_password(passphrase.as_bytes())
        .map_err(|e| Problem::internal(&e))?;
    Ok(hashed.to_string())
}

/// Whether a passphrase is that of a hash, worked out in a room that is there already.
fn verify(hash: &str, passphrase: &str, room: &mut Room) -> bool {
    let Ok(kept) = PasswordHash::new(hash) else {
        return false;
    };
    let (Some(salt), Some(wanted), Ok(params)) = (kept.salt, kept.hash, Params::try_from(&kept))
    else {
        return false;
    };
    let own = Argon2::default();
    if params.block_count() != own.params().block_count()
        || params.t_cost() != own.params().t_cost()
    {
        // Hashed otherwise than here: it takes a room of its own.
        return own.verify_password(passphrase.as_bytes(), &kept).is_ok();
    }
    let mut found = [0; Params::DEFAULT_OUTPUT_LEN];
    let worked_out =
        own.hash_password_into_with_memory(passphrase.as_bytes(), &salt, &mut found, room);
    // Two outputs are compared in the same time wherever they part.
    worked_out.is_ok() && Output::new(&found).is_ok_and(|found| found == wanted)
}

/// Signs a browser in.
pub(crate) async fn sign_in(
    app: &App,
    session: &Session,
    peer: Peer,
    (name, passphrase): (String, String),
) -> Result<Who, Problem> {
    let name = name.trim().to_lowercase();
    let wrong = || {
        Problem::new(
            StatusCode::FORBIDDEN,
            "wrong_passphrase",
            "Not signed in",
            "Name and passphrase do not go together.",
        )
    };
    // Longer than any name or passphrase that was ever taken in.
    if name.chars().count() > MOST_NAME || passphrase.len() > MOST_PASSPHRASE {
        return Err(wrong());
    }
    app.tries.begin(peer, &name)?;
    let asked = name.clone();
    let person = app.run(move |store| Ok(store.person(&asked)?)).await?;
    // A name nobody has takes as long as a wrong passphrase.
    let stand_in =
        "$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$RdescudvJCsgt3ub+b4dWRWJTmaaJObG";
    let hash = person
        .as_ref()
        .map_or_else(|| stand_in.to_owned(), |p| p.passphrase_hash.clone());
    let right = app
        .checks
        .run(move |room| verify(&hash, &passphrase, room))
        .await?;
    let found = person.filter(|_| right);
    let person = found.ok_or_else(wrong)?;
    app.tries.came_in(peer, &name);
    // A new id, so that one planted before the sign-in is worth nothing.
    session
        .cycle_id()
        .await
        .map_err(|e| Problem::internal(&e))?;
    session
        .insert(PERSON, &person.id)
        .await
        .map_err(|e| Problem::internal(&e))?;
    // Kept before it is answered, so that a full disk is told as such.
    session.save().await.map_err(|e| not_kept(&e))?;
    Ok(Who {
        name: person.name,
        role: person.role,
    })
}

/// Why a session could not be kept.
fn not_kept(error: &tower_sessions::session::Error) -> Problem {
    match error {
        tower_sessions::session::Error::Store(Error::Backend(said))
            if *said == StoreError::DiskFull.to_string() =>
        {
            StoreError::DiskFull.into()
        }
        other => Problem::internal(other),
    }
}

/// Who a session belongs to; None where nobody has signed in.
async fn signed_in(app: &App, session: &Session) -> Result<Option<Who>, Problem> {
    let Some(id) = session
        .get::<String>(PERSON)
        .await
        .map_err(|e| Problem::internal(&e))?
    else {
        return Ok(None);
    };
    // Once a day its use is noted, which puts off its end.
    let today = Timestamp::now().as_second() / 86_400;
    if session
        .get::<i64>(LAST_DAY)
        .await
        .map_err(|e| Problem::internal(&e))?
        != Some(today)
    {
        session
            .insert(LAST_DAY, today)
            .await
            .map_err(|e| Problem::internal(&e))?;
    }
    app.run(move |store| {
        Ok(store.person(&id)?.map(|p| Who {
            name: p.name,
            role: p.role,
        }))
    })
    .await
}

/// Who sends this request: who signed in, else the owner where this computer does not ask.
pub(crate) async fn asks(app: &App, session: &Session) -> Result<Option<Who>, Problem> {
    if let Some(who) = signed_in(app, session).await? {
        return Ok(Some(who));
    }
    let free = app.here && !app.run(|store| Ok(store.asks_here()?)).await?;
    Ok(free.then(Who::nobody_signed_in))
}

/// What writes nothing though it is sent.
const WORKED_OUT: [&str; 4] = ["picture", "ph-dose", "bench", "bench/aim"];

/// What a recorder writes under `/trials/{id}/` beside records, of which each kind says itself who
/// may.
const RECORDER: [&str; 4] = ["looks", "take-back", "photos", "undo"];

/// What a role may ask for. The reading routes that would tell the key before it is opened answer
/// for themselves.
fn may(role: Role, method: &Method, path: &str) -> bool {
    let rest = path.strip_prefix("/api/v1/").unwrap_or(path);
    match role {
        Role::Owner => true,
        _ if rest == "people" || rest == "backups" || rest.starts_with("backups/") => false,
        _ if method == Method::GET || method == Method::HEAD => true,
        // Worked out from what is sent and from Stores alone; a top-up tells what a treatment gets
        // and answers for itself.
        _ if method == Method::POST
            && (WORKED_OUT.contains(&rest) || rest.ends_with("/top-up")) =>
        {
            true
        }
        // Each kind of record says who may write it: anybody may guess.
        _ if method == Method::POST
            && matches!(
                rest.split('/').collect::<Vec<_>>()[..],
                ["trials", _, "records"]
            ) =>
        {
            true
        }
        Role::Recorder => {
            let parts: Vec<&str> = rest.split('/').collect();
            (method == Method::POST && matches!(parts[..], ["trials", _, what] if RECORDER.contains(&what)))
                || matches!(parts[..], ["trials", _, "loggers", ..])
                || (method == Method::POST && matches!(parts[..], ["instruments", _, "take"]))
                || (method == Method::PUT && matches!(parts[..], ["trials", _, "photos", _]))
                // Covered cups are nobody's secret: what stands under them is seen by who looks.
                || (method == Method::POST
                    && matches!(parts[..], ["trials", _, "tastings", _, "seats", _, "answer" | "uncovered"]))
        }
        Role::Viewer => false,
    }
}

/// Finds out who asks, and refuses what they may not.
pub(crate) async fn identify(
    State(app): State<App>,
    session: Session,
    mut request: Request,
    next: Next,
) -> Response {
    let path = request.uri().path().to_owned();
    // The page itself and signing in are for everybody.
    let named = ["/api/v1/sign-in", "/api/v1/sign-out", "/api/v1/me"].contains(&path.as_str());
    // A seat at a tasting is opened by its token alone.
    let open = !path.starts_with("/api/") || named || path.starts_with("/api/v1/taste/");
    if open {
        return next.run(request).await;
    }
    match asks(&app, &session).await {
        Err(problem) => problem.into_response(),
        Ok(None) => {
            let detail = "Say who you are first; nothing was changed.";
            Problem::new(
                StatusCode::UNAUTHORIZED,
                "sign_in",
                "Please sign in",
                detail,
            )
            .into_response()
        }
        Ok(Some(who)) if !may(who.role, request.method(), &path) => {
            let detail = match who.role {
                Role::Recorder => {
                    "A recorder takes records; plan, deal and key are the owner's. Nothing was \
                     changed."
                }
                _ => "A viewer looks on. Nothing was changed.",
            };
            Problem::new(
                StatusCode::FORBIDDEN,
                "not_yours",
                "That is the owner's",
                detail,
            )
            .into_response()
        }
        Ok(Some(who)) => {
            request.extensions_mut().insert(who);
            next.run(request).await
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_role_may_what_it_should() {
        let post = |role, path: &str| may(role, &Method::POST, &format!("/api/v1/{path}"));
        for path in ["trials/x/looks", "trials/x/photos", "trials/x/undo"] {
            assert!(
                post(Role::Owner, path) && post(Role::Recorder, path) && !post(Role::Viewer, path),
                "{path}"
            );
        }
        for path in [
            "trials/x/reveal",
            "trials/x/pouring-sheet",
            "trials/x/deal",
            "stores/items",
            "people",
            "trials",
        ] {
            assert!(
                post(Role::Owner, path) && !post(Role::Recorder, path) && !post(Role::Viewer, path),
                "{path}"
            );
        }
        assert!(!may(Role::Recorder, &Method::PUT, "/api/v1/trials/x/ask"));
        assert!(may(Role::Viewer, &Method::GET, "/api/v1/today"));
        for path in ["people", "backups", "backups/by-hand.sqlite"] {
            assert!(
                !may(Role::Viewer, &Method::GET, &format!("/api/v1/{path}")),
                "{path}"
            );
            assert!(
                may(Role::Owner, &Method::GET, &format!("/api/v1/{path}")),
                "{path}"
            );
        }
    }

    #[test]
    fn passphrases_are_hashed_with_a_salt_and_short_ones_refused() {
        let (a, b) = (
            hash("two jars on a shelf").unwrap(),
            hash("two jars on a shelf").unwrap(),
        );
        assert!(a.starts_with("$argon2id$") && a != b);
        let mut room = vec![argon2::Block::default(); Params::DEFAULT.block_count()];
        let mut is = |hash: &str, passphrase: &str| verify(hash, passphrase, &mut room);
        assert!(
            is(&a, "two jars on a shelf")
                && !is(&a, "two jars on a bench")
                && is(&b, "two jars on a shelf")
        );
        // Hashed with another cost.
        let cheap = Argon2::new(
            argon2::Algorithm::Argon2id,
            argon2::Version::V0x13,
            Params::new(256, 1, 1, None).unwrap(),
        );
        let other: PasswordHash = cheap.hash_password(b"two jars on a shelf").unwrap();
        assert!(
            is(&other.to_string(), "two jars on a shelf") && !is(&other.to_string(), "two jars")
        );
        assert!(!is("no hash", "two jars on a shelf"));
        assert!(hash("short").is_err());
    }
}
