//! Whole stories through the real binary, most of them in a real browser. They are one program, so that none waits for the last
//! one of another.

mod api;
mod calc;
mod checks;
mod crash;
mod door;
mod interface;
mod limits;
mod planned;
mod reach;
mod readme;
mod reports;
mod rounds;
mod second_way;
mod setup;
mod shift;
mod siege;
mod story;
mod tally;
mod upkeep;
