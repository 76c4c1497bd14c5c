# Draws tables from a seed, analyses each with R and with the binary, and compares. Not part of the tests.
# Debian: apt-get install r-base-core r-cran-lmertest r-cran-emmeans r-cran-mvtnorm r-cran-jsonlite
# Run:    Rscript crates/core/tests/against_r/compare.R target/debug/iron-twin 200 1
suppressMessages({ library(lmerTest); library(emmeans); library(jsonlite) })
emm_options(lmer.df = "satterthwaite", msg.interaction = FALSE)
source(file.path(dirname(sub("^--file=", "", grep("^--file=", commandArgs(), value = TRUE))), "verdicts.R"))
args <- commandArgs(trailingOnly = TRUE)
binary <- args[1]; tables <- as.integer(args[2]); seed <- as.integer(args[3])
set.seed(seed)
worst <- c(exact = 0, fitted = 0); bad <- 0; done <- 0

draw <- function() {
  k <- sample(2:5, 1); blocks <- sample(c(0, 0, 3:6), 1); baseline <- runif(1) < 0.4
  samples <- if (runif(1) < 0.35) sample(2:5, 1) else 1
  names <- c("water", paste0("feed", seq_len(k - 1)))
  rows <- if (blocks > 0) expand.grid(treatment = names, block = paste0("b", seq_len(blocks)), stringsAsFactors = FALSE)
          else data.frame(treatment = rep(names, sample(3:7, k, replace = TRUE)), stringsAsFactors = FALSE)
  # Ragged: some cells are lost, but every treatment stays.
  if (runif(1) < 0.5 && nrow(rows) > 2 * k + 2) {
    cut <- rows[-sample(nrow(rows), sample(1:2, 1)), , drop = FALSE]
    if (all(table(factor(cut$treatment, names)) >= 2)) rows <- cut
  }
  rows$unit <- paste0("u", seq_len(nrow(rows)))
  effect <- setNames(rnorm(k, 0, 8), names)
  value <- 100 + effect[rows$treatment] + rnorm(nrow(rows), 0, 5)
  if (blocks > 0) value <- value + rnorm(blocks, 0, 6)[match(rows$block, unique(rows$block))]
  rows$value <- value
  n <- if (samples > 1) sample(1:samples, nrow(rows), replace = TRUE) else rep(1, nrow(rows))
  if (samples > 1) n[1] <- 2
  d <- rows[rep(seq_len(nrow(rows)), n), ]
  if (samples > 1) d$value <- d$value + rnorm(nrow(d), 0, 3)
  if (baseline) { d$start <- round(rnorm(nrow(d), 20, 3), 1); d$value <- d$value + 0.8 * d$start }
  d$value <- round(d$value, 1)
  d[sample(nrow(d)), ]
}

gap <- function(a, b, scale) abs(a - b) / max(scale, 1e-12)

for (i in seq_len(tables)) {
  d <- draw()
  has <- function(col) col %in% names(d)
  mixed <- any(duplicated(d$unit))
  file <- tempfile(fileext = ".csv"); write.csv(d, file, row.names = FALSE)
  call <- c("analyse", file, "--measure", "value", "--treatment", "treatment", "--control", "water", "--json",
            if (has("block")) c("--block", "block"), if (has("start")) c("--baseline", "start"), if (mixed) c("--unit", "unit"))
  q <- draw_question("amount"); call <- c(call, question_words(q))
  out <- suppressWarnings(system2(binary, call, stdout = TRUE, stderr = TRUE))
  ours <- tryCatch(fromJSON(paste(out, collapse = "\n"), simplifyVector = FALSE), error = function(e) NULL)
  if (is.null(ours)) { cat("table", i, ":", out, "\n"); bad <- bad + 1; next }
  for (v in verdict_differences(ours, q, "amount")) { bad <- bad + 1; cat("table", i, "verdict", v, "\n") }
  d$treatment <- relevel(factor(d$treatment), "water")
  formula <- paste("value ~ treatment", if (has("block")) "+ block", if (has("start")) "+ start")
  rank_df <- NULL
  if (mixed) {
    fit <- suppressMessages(lmer(as.formula(paste(formula, "+ (1 | unit)")), d, REML = TRUE,
      control = lmerControl(optimizer = "bobyqa", optCtrl = list(maxfun = 1e5, rhoend = 1e-9), calc.derivs = FALSE, check.nobs.vs.nRE = "ignore")))
    cap <- length(unique(d$unit)) - length(fixef(fit))
    singular <- isSingular(fit, tol = 1e-4)
    if (cap < 2) next
  } else { fit <- lm(as.formula(formula), d); if (df.residual(fit) < 1) next }
  grid <- emmeans(fit, "treatment")
  contrasts <- as.data.frame(summary(contrast(grid, "trt.vs.ctrl1", adjust = "none")))
  means <- as.data.frame(summary(grid))
  kind <- if (mixed) "fitted" else "exact"
  for (c in ours$contrasts) {
    row <- contrasts[contrasts$contrast == paste(c$treatment, "- water") | contrasts$contrast == paste0(c$treatment, " - water"), ]
    df <- if (mixed) (if (singular) cap else min(row$df, cap)) else row$df
    reach <- qt(0.975, df) * row$SE
    p <- 2 * pt(-abs(row$estimate / row$SE), df)
    g <- c(estimate = gap(c$estimate, row$estimate, row$SE), se = gap(c$se, row$SE, row$SE), df = gap(c$df, df, df),
           low = gap(c$low, row$estimate - reach, row$SE), high = gap(c$high, row$estimate + reach, row$SE), p = gap(c$p, p, p))
    limit <- if (mixed) 1e-3 else 1e-6
    worst[kind] <- max(worst[kind], g)
    if (any(is.na(g)) || any(g > limit)) { bad <- bad + 1; cat("table", i, c$treatment, if (mixed) paste("mixed, singular", singular), ":", paste(names(g), signif(g, 3)), "\n") }
  }
  for (t in ours$treatments) {
    row <- means[means$treatment == t$name, ]
    if (gap(t$adjusted_mean, row$emmean, row$SE) > (if (mixed) 1e-3 else 1e-6)) { bad <- bad + 1; cat("table", i, "mean of", t$name, t$adjusted_mean, row$emmean, "\n") }
  }
  done <- done + 1
}
cat(R.version.string, "lme4", as.character(packageVersion("lme4")), "lmerTest", as.character(packageVersion("lmerTest")), "emmeans", as.character(packageVersion("emmeans")), "\n")
cat(done, "tables compared,", bad, "differences; largest relative gap: linear", signif(worst["exact"], 3), "mixed", signif(worst["fitted"], 3), "\n")
cat("verdicts compared:", paste(names(seen), seen), "\n")
