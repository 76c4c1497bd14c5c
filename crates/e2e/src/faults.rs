//! axe-core, the open rules for what screen readers and keyboards need, over the page as it stands.

use crate::Browser;

impl Browser {
    /// Holds the page, as it stands and at a phone's size, against axe-core.
    ///
    /// # Panics
    /// When it finds a fault.
    pub async fn no_faults(&self) {
        for (width, height) in [(1280, 800), (390, 844)] {
            self.size(width, height).await;
            self.no_faults_here().await;
        }
        self.size(1280, 800).await;
    }

    /// Holds the page as it stands against axe-core.
    ///
    /// # Panics
    /// When it finds a fault.
    pub async fn no_faults_here(&self) {
        let faults = self.axe_faults().await;
        assert!(faults.is_empty(), "{}", faults.join("\n"));
    }

    /// The faults that axe-core finds on the page as it stands: rule, what is wrong, where.
    ///
    /// # Panics
    /// Without axe-core, which `npm ci` brings.
    pub async fn axe_faults(&self) -> Vec<String> {
        let file = concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/../../web/node_modules/axe-core/axe.min.js"
        );
        let axe = std::fs::read_to_string(file).expect("axe-core, which npm ci brings");
        // What the bar at the foot covers is scrolled free; here it would count as a target cut
        // small.
        let free = "document.head.insertAdjacentHTML('beforeend', '<style>.edge { position: static !important; }</style>')";
        self.page.execute(free, vec![]).await.expect("a style");
        self.page.execute(&axe, vec![]).await.expect("axe-core");
        let script = "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'], rules: { 'target-size': { enabled: true }, 'label-content-name-mismatch': { enabled: true } } }).then(r \
                      => done(JSON.stringify(r.violations.map(v => `${v.id} (${v.impact}): \
                      ${v.help}: ${v.nodes.map(n => `${n.html.slice(0, 160)} (${(n.any[0] ?? {}).message ?? ''})`).slice(0, 3).join(' | ')}`))), \
                      e => done(JSON.stringify([String(e)])))";
        let found = self
            .page
            .execute_async(script, vec![])
            .await
            .expect("an answer");
        serde_json::from_str(&found.convert::<String>().expect("text")).expect("a list")
    }
}
