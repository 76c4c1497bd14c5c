//! How long the tracks of 200 units over 60 days take from the data file to the answer, the first
//! time and again; beside them the grid of a day of the same trial, so that ratios can be read off
//! whatever the machine.

use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::space::Rack;
use iron_twin_server::{App, router};
use iron_twin_store::place::Chance;
use iron_twin_store::{Stamp, Store};
use jiff::{Timestamp, ToSpan};
use std::time::Instant;
use tower::ServiceExt;

const DAYS: u32 = 60;

async fn asked(router: &axum::Router, path: &str) -> (f64, usize) {
    let started = Instant::now();
    let request = Request::get(path)
        .header(header::HOST, "localhost")
        .body(Body::empty());
    let answer = router
        .clone()
        .oneshot(request.unwrap_or_default())
        .await
        .unwrap_or_else(|e| panic!("{e}"));
    assert!(answer.status().is_success(), "{path}: {}", answer.status());
    let bytes = answer
        .into_body()
        .collect()
        .await
        .map(|b| b.to_bytes().len())
        .unwrap_or_default();
    (started.elapsed().as_secs_f64() * 1e3, bytes)
}

#[tokio::main]
async fn main() -> Result<(), Box<dyn std::error::Error>> {
    let folder = tempfile::tempdir()?;
    let file = folder.path().join("farm.sqlite");
    let store = Store::open(&file)?;
    let now = Timestamp::now();
    let owner = Stamp::owner(now);
    let id = store.create_trial(&owner, "Cress")?;
    let rack = Rack {
        name: "rack".into(),
        levels: 10,
        slots: 20,
        ..Rack::default()
    };
    let version = store.set_rack(&owner, &id, &rack, 1)?;
    store.deal(
        &owner,
        &id,
        Chance {
            seed: 11,
            nonce: [3; 32],
        },
        version,
    )?;
    let sown = now
        .to_zoned(store.farm()?.time_zone())
        .date()
        .checked_sub(i64::from(DAYS).days())?;
    store.sow(&owner, &id, sown)?;
    let codes: Vec<String> = store
        .trial(&id)?
        .units
        .iter()
        .map(|u| u.code.clone())
        .collect();
    for day in 1..=DAYS {
        for (n, code) in (0_u32..).zip(&codes) {
            let head = HeadSent {
                unit: Some(code.clone()),
                day: Some(day),
                confirmed: true,
                ..HeadSent::default()
            };
            let value = Some(5.5 + f64::from((n * 7 + day * 13) % 11) / 20.0);
            store.keep(
                &owner,
                &id,
                head,
                Reading {
                    reading: "ph".into(),
                    value,
                    again: false,
                },
            )?;
        }
    }
    drop(store);
    let router = router(App::new(Store::open(&file)?));
    let grid = format!("/api/v1/trials/{id}/tend?day={DAYS}");
    let (first, _) = asked(&router, &format!("/api/v1/trials/{id}/tracks")).await;
    let mut times: Vec<[f64; 3]> = Vec::new();
    let mut bytes = 0;
    for _ in 0..15 {
        let (list, _) = asked(&router, &format!("/api/v1/trials/{id}/tracks")).await;
        let (track, length) = asked(&router, &format!("/api/v1/trials/{id}/tracks/ph")).await;
        let (day, _) = asked(&router, &grid).await;
        times.push([list, track, day]);
        bytes = length;
    }
    let median = |k: usize| {
        let mut own: Vec<f64> = times.iter().map(|t| t[k]).collect();
        own.sort_by(f64::total_cmp);
        own[own.len() / 2]
    };
    println!(
        "| {} units x {DAYS} days | loaded and listed {first:.0} ms | listed {:.1} ms | one track \
         {:.1} ms, {} kB | the grid of a day {:.1} ms | {:.2} grids |",
        codes.len(),
        median(0),
        median(1),
        bytes / 1000,
        median(2),
        median(1) / median(2),
    );
    if let Some(keep) = std::env::args().nth(1) {
        std::fs::copy(&file, keep)?;
    }
    Ok(())
}
