//! The program: one file with the web inside.

mod cli;

use std::process::ExitCode;

/// Facts come and go in large pieces: what is free goes back to the machine.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    fair_tally::tls::provide();
    match cli::done() {
        Ok(()) => ExitCode::SUCCESS,
        // A sentence with its causes, never a trace: what the user can do something about is in the words.
        Err(error) => {
            eprintln!("fair-tally: {error:#}");
            ExitCode::FAILURE
        }
    }
}
