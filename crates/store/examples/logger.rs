//! How long a logger's file of a million rows takes from its bytes to the hours that are drawn;
//! beside it how long it takes only to read the rows, so that a ratio can be read off whatever the
//! machine. The file lies on the disk meanwhile.

use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::tend::logger::{ColumnUse, Mapping, ProbeAt, Row, Within, read};
use iron_twin_store::{Stamp, Store};
use jiff::Timestamp;
use std::io::{BufReader, Write};
use std::ops::ControlFlow;
use std::time::Instant;

const ROWS: i64 = 1_000_000;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let folder = tempfile::tempdir()?;
    let path = folder.path().join("log.csv");
    let mut file = std::io::BufWriter::new(std::fs::File::create(&path)?);
    writeln!(file, "time;temp °C;RH %")?;
    let start = 1_700_000_000_i64;
    for n in 0..ROWS {
        let at = Timestamp::from_second(start + 60 * n)?
            .strftime("%d.%m.%Y %H:%M:%S")
            .to_string();
        writeln!(
            file,
            "{at};{},{};{},{}",
            18 + n % 9,
            n % 10,
            40 + n % 30,
            n % 7
        )?;
    }
    file.into_inner()?.sync_all()?;
    let column = |column, quantity: Logged| ColumnUse {
        column,
        quantity,
        unit: quantity.unit().into(),
        place: ProbeAt::Room,
    };
    let mapping = Mapping {
        separator: ';',
        decimal_comma: true,
        head_rows: 1,
        time: 0,
        time_of_day: None,
        format: "%d.%m.%Y %H:%M:%S%.f".into(),
        zone: "UTC".into(),
        columns: vec![
            column(1, Logged::AirTemperature),
            column(2, Logged::Humidity),
        ],
    };
    let within = Within {
        from: Timestamp::UNIX_EPOCH,
        until: Timestamp::MAX,
    };
    let mut good = 0;
    let started = Instant::now();
    read(
        BufReader::new(std::fs::File::open(&path)?),
        &mapping,
        within,
        |row| {
            good += i64::from(matches!(row, Row::Good(..)));
            ControlFlow::Continue(())
        },
    )?;
    let reading = started.elapsed().as_secs_f64();
    assert_eq!(good, ROWS);
    let store = Store::open(&folder.path().join("farm.sqlite"))?;
    let owner = Stamp::owner(Timestamp::from_second(start + 60 * ROWS)?);
    let id = store.create_trial(&owner, "Cress")?;
    let started = Instant::now();
    let open = BufReader::new(std::fs::File::open(&path)?);
    let taken = store
        .take_log(&owner, &id, ("log.csv", &mapping), open, || true)?
        .map(|f| f.taken);
    let whole = started.elapsed().as_secs_f64();
    assert_eq!(taken, Some(ROWS.unsigned_abs()));
    let all = store.series(&id)?;
    let started = Instant::now();
    let year = (start / 3600, start / 3600 + 24 * 365);
    let drawn = store.stretches(&all[0], year, 6)?.len();
    let drawing = started.elapsed().as_secs_f64() * 1e3;
    let started = Instant::now();
    store.undo(&owner, &id)?;
    println!(
        "| {ROWS} rows of two columns | read {reading:.1} s | taken in {whole:.1} s in all | \
         {:.1} times the reading | a year of minutes in {drawn} stretches {drawing:.1} ms | taken \
         back {:.1} s |",
        whole / reading,
        started.elapsed().as_secs_f64(),
    );
    Ok(())
}
