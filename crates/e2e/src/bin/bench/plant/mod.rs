//! A large plant: figures in process ([`computed`], [`alone`]), and what screens ask for over HTTP ([`asked`]), on a plant that is made once
//! ([`plant`]) and kept below the target folder.

mod alone;
mod asked;
mod computed;
mod scrolled;

use anyhow::Result;
use std::time::Instant as Stopwatch;
use tally_e2e::{plant, plant::Size};

pub async fn bench(small: bool) -> Result<()> {
    let size = if small { Size::SMALL } else { Size::WHOLE };
    let start = Stopwatch::now();
    let folder = plant::kept(size)?;
    println!(
        "\na plant of {} assets, {} orders, {} entries, {} downtimes (made or found in {:.0} s):",
        size.assets,
        size.orders,
        size.entries(),
        size.downtimes,
        start.elapsed().as_secs_f64()
    );
    computed::bench(&folder)?;
    alone::bench(&folder)?;
    asked::bench(&folder).await?;
    scrolled::bench(&folder).await
}
