//! The tests of the page in a real browser, in one binary: each more would be linked and run by itself.

mod afterwards;
mod axe;
mod bench;
mod calendar;
mod demo;
mod designs;
mod given;
mod harvest;
mod kept;
mod kinds;
mod layouts;
mod ledger;
mod loss;
mod people;
mod phone;
mod plans;
mod server_away;
mod shelf_day;
mod slow;
mod stations;
mod stores;
mod tasting;
mod tracks;
mod units;
mod whole_line;
