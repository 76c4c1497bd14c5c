//! Chromium and its driver, from Debian's packages.

use crate::run::{Fail, have, program, root};

fn there() -> bool {
    have("chromium") && have("chromedriver")
}

/// Installs what is missing.
pub fn install() -> Result<(), Fail> {
    if there() {
        return Ok(());
    }
    let remedy = "The browser tests need Chromium and ChromeDriver. Install them so that \
                  'chromium --version' and 'chromedriver --version' answer; on Debian: apt-get \
                  install chromium chromium-driver";
    if !have("apt-get") {
        return Err(Fail::new(remedy));
    }
    let owner = std::process::Command::new("id").arg("-u").output();
    let is_root = owner.is_ok_and(|o| o.stdout.trim_ascii() == b"0");
    let apt = |arguments: &[&str]| {
        let mut words = vec!["env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "-qq"];
        words.extend(arguments);
        let (name, words) = if is_root {
            ("env", words[1..].to_vec())
        } else {
            ("sudo", words)
        };
        // Mirrors may stumble once.
        program(name, &words, &root()).or_else(|_| program(name, &words, &root()))
    };
    apt(&["update"])?;
    apt(&[
        "install",
        "-y",
        "--no-install-recommends",
        "chromium",
        "chromium-driver",
    ])?;
    if there() {
        Ok(())
    } else {
        Err(Fail::new(remedy))
    }
}
