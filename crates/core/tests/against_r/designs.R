# Draws trials of designs that columns alone cannot tell, writes each with its plan, analyses it with R and with the
# binary, and compares. Not part of the tests.
# Debian: apt-get install r-base-core r-cran-lmertest r-cran-emmeans r-cran-mvtnorm r-cran-jsonlite r-cran-survival
# Run:    Rscript crates/core/tests/against_r/designs.R target/debug/iron-twin 100 1
suppressMessages({ library(lmerTest); library(emmeans); library(mvtnorm); library(jsonlite); library(survival) })
emm_options(lmer.df = "satterthwaite", msg.interaction = FALSE)
args <- commandArgs(trailingOnly = TRUE)
binary <- args[1]; tables <- as.integer(args[2]); set.seed(as.integer(args[3]))
kinds <- c("latin", "swap", "factorial", "factorial counts", "factorial shares", "split", "balance", "tukey", "looks", "windows", "match power")
worst <- setNames(numeric(length(kinds)), kinds); done <- worst; bad <- 0

hold <- function(kind, table, what, ours, theirs, limit, scale = NULL) {
  if (is.null(ours)) ours <- NA
  size <- if (is.null(scale)) max(abs(theirs), 1e-12) else scale
  g <- abs(ours - theirs) / size
  if (is.na(g) || g > limit) { bad <<- bad + 1; cat("table", table, kind, what, "ours", ours, "R", theirs, "\n") }
  else worst[kind] <<- max(worst[kind], g)
}

ask <- function(d, plan, words = c()) {
  file <- tempfile(fileext = ".csv"); write.csv(d, file, row.names = FALSE, na = "")
  plan$format <- "iron-twin/plan/1"
  if (is.null(plan$measures)) plan$measures <- list(list(column = "y"))
  if (is.null(plan$design$factors) && is.null(plan$treatment)) { plan$treatment <- "treatment"; plan$control <- "water" }
  plan_file <- tempfile(fileext = ".json"); write(toJSON(plan, auto_unbox = TRUE, digits = NA), plan_file)
  out <- suppressWarnings(system2(binary, c("analyse", file, "--plan", plan_file, words, "--json"), stdout = TRUE, stderr = TRUE))
  tryCatch(fromJSON(paste(out, collapse = "\n"), simplifyVector = FALSE), error = function(e) { cat(out, "\n"); bad <<- bad + 1; NULL })
}

# A random Latin square: rows, columns and letters of the cyclic one shuffled.
square <- function(k) outer(sample(k), sample(k), function(i, j) (i + j) %% k + 1)

contrasts_like <- function(kind, i, ours, fit, prefix = "treatment", limit = 1e-7) {
  s <- coef(summary(fit)); df <- df.residual(fit)
  for (c in ours$contrasts) {
    row <- s[paste0(prefix, c$treatment), ]
    hold(kind, i, "estimate", c$estimate, row[[1]], limit, row[[2]])
    hold(kind, i, "se", c$se, row[[2]], limit)
    hold(kind, i, "df", c$df, df, 1e-12)
    hold(kind, i, "p", c$p, row[[4]], limit)
  }
}

# Every exchange of two treatments that leaves a Latin square: all maps of their cells onto each other, tried one by one.
latin_redeal <- function(d, t) {
  cells <- which(d$treatment %in% c(t, "water")); n <- length(cells)
  leads <- c()
  for (m in 0:(2^n - 1)) {
    a <- bitwAnd(m, 2^(0:(n - 1))) > 0
    r <- d$row[cells]; k <- d$col[cells]
    if (sum(a) == n / 2 && !anyDuplicated(r[a]) && !anyDuplicated(k[a]) && !anyDuplicated(r[!a]) && !anyDuplicated(k[!a]))
      leads <- c(leads, sum(d$y[cells][a]) - sum(d$y[cells][!a]))
  }
  seen <- sum(d$y[cells][d$treatment[cells] == t]) - sum(d$y[cells][d$treatment[cells] == "water"])
  list(p = mean(abs(leads) >= abs(seen) - 1e-9), n = length(leads))
}

latin <- function(i) {
  k <- sample(3:6, 1); sq <- square(k); names <- c("water", paste0("feed", seq_len(k - 1)))
  d <- data.frame(row = rep(seq_len(k), k), col = rep(seq_len(k), each = k)); d$treatment <- names[sq[cbind(d$row, d$col)]]
  d$y <- round(50 + rnorm(k, 0, 6)[d$row] + rnorm(k, 0, 6)[d$col] + setNames(rnorm(k, 0, 5), names)[d$treatment] + rnorm(k^2, 0, 3), 2)
  if (runif(1) < 0.3) d <- d[-sample(nrow(d), 1), ]
  whole <- nrow(d) == k^2
  d <- d[sample(nrow(d)), ]
  ours <- ask(d, list(design = list(kind = "latin_square", row = "row", column = "col"))); if (is.null(ours)) return()
  d$treatment <- relevel(factor(d$treatment), "water")
  fit <- lm(y ~ treatment + factor(row) + factor(col), d)
  if (df.residual(fit) < 1 || length(unique(d$treatment)) < k) return()
  contrasts_like("latin", i, ours, fit)
  grid <- as.data.frame(summary(emmeans(fit, "treatment")))
  for (t in ours$treatments) hold("latin", i, "mean", t$adjusted_mean, grid$emmean[grid$treatment == t$name], 1e-9)
  a <- anova(lm(y ~ factor(row) + factor(col), d), fit)
  hold("latin", i, "F", ours$overall$statistic, a$F[2], 1e-7)
  if (whole && k <= 5) for (c in ours$contrasts) {
    r <- latin_redeal(d, c$treatment)
    hold("latin", i, "deals", c$randomisation$assignments, r$n, 1e-12); hold("latin", i, "re-deal", c$randomisation$p, r$p, 1e-9)
  }
  done["latin"] <<- done["latin"] + 1
}

swap <- function(i) {
  pairs <- sample(1:5, 1); first <- sample(0:1, pairs, replace = TRUE)
  d <- expand.grid(system = c("left", "right"), round = seq_len(2 * pairs), stringsAsFactors = FALSE)
  turn <- (first[(d$round + 1) %/% 2] + d$round + (d$system == "left")) %% 2
  d$treatment <- c("water", "feed")[turn + 1]
  d$y <- round(40 + 5 * (d$system == "left") + rnorm(2 * pairs, 0, 4)[d$round] + 3 * turn + rnorm(nrow(d), 0, 2), 2)
  ours <- ask(d, list(design = list(kind = "swap_over", system = "system", round = "round"))); if (is.null(ours)) return()
  d$treatment <- relevel(factor(d$treatment), "water")
  fit <- lm(y ~ treatment + system + factor(round), d)
  if (df.residual(fit) < 1) return()
  contrasts_like("swap", i, ours, fit)
  lead <- tapply(ifelse(d$treatment == "feed", d$y, -d$y), (d$round + 1) %/% 2, sum)
  all <- as.matrix(expand.grid(rep(list(c(-1, 1)), pairs))) %*% lead
  hold("swap", i, "re-deal", ours$contrasts[[1]]$randomisation$p, mean(abs(all) >= abs(sum(lead)) - 1e-9), 1e-9)
  done["swap"] <<- done["swap"] + 1
}

effects_like <- function(kind, i, ours, grid, a, b, limit) {
  # Over all combinations and within each, every level against the reference.
  for (e in ours$factors$effects) {
    f <- e$factor; other <- setdiff(c(a, b), f)
    specs <- if (is.null(e$at)) as.formula(paste("~", f)) else as.formula(paste("~", f, "|", other))
    s <- as.data.frame(summary(contrast(emmeans(grid, specs), "trt.vs.ctrl1", adjust = "none", infer = TRUE)))
    level <- strsplit(e$treatment, " with ")[[1]][1]
    row <- s[sapply(strsplit(as.character(s$contrast), " - "), `[`, 1) == level, ]
    if (!is.null(e$at)) row <- row[row[[other]] == e$at, ]
    if (nrow(row) != 1) { bad <<- bad + 1; cat("table", i, kind, "no row for", e$treatment, "\n"); next }
    est <- if (kind == "factorial counts") log(e$estimate) else e$estimate
    hold(kind, i, "effect", est, row$estimate, limit, row$SE); hold(kind, i, "effect se", e$se, row$SE, limit)
    hold(kind, i, "effect df", e$df, row$df, limit)
  }
}

crossed <- function(extra = 0) {
  d <- expand.grid(mat = c("none", "wool", "hemp")[seq_len(sample(2:3, 1))], air = c("still", "bubbled"), block = paste0("b", seq_len(sample(3:5, 1))), stringsAsFactors = FALSE)
  if (runif(1) < 0.3) d <- d[-sample(nrow(d), 1), ]
  if (runif(1) < 0.5) d <- rbind(d, d)
  d
}
crossed_plan <- function(...) list(design = list(kind = "factorial", factors = list(list(column = "mat", reference = "none"), list(column = "air", reference = "still")), block = "block"), ...)
levelled <- function(d) { d$mat <- relevel(factor(d$mat), "none"); d$air <- relevel(factor(d$air), "still"); d }

factorial_amount <- function(i) {
  d <- crossed(); n <- nrow(d)
  d$y <- round(60 + 4 * (d$air == "bubbled") + 6 * (d$mat == "wool") + 8 * (d$mat == "wool" & d$air == "bubbled") + rnorm(5, 0, 4)[as.integer(factor(d$block))] + rnorm(n, 0, 4), 2)
  ours <- ask(d, crossed_plan()); if (is.null(ours)) return()
  d <- levelled(d); fit <- lm(y ~ mat * air + block, d)
  if (df.residual(fit) < 2) return()
  a <- anova(lm(y ~ mat + air + block, d), fit)
  hold("factorial", i, "interaction F", ours$factors$interaction$test$statistic, a$F[2], 1e-6)
  hold("factorial", i, "interaction p", ours$factors$interaction$test$p, a$`Pr(>F)`[2], 1e-6)
  effects_like("factorial", i, ours, fit, "mat", "air", 1e-7)
  done["factorial"] <<- done["factorial"] + 1
}

factorial_tallies <- function(i, share) {
  kind <- if (share) "factorial shares" else "factorial counts"
  d <- crossed(); n <- nrow(d); x <- 0.5 * (d$air == "bubbled") + 0.3 * (d$mat == "wool") + rnorm(n, 0, 0.3)
  d$n <- if (share) sample(20:60, n, replace = TRUE) else round(runif(n, 1, 3), 2)
  d$y <- if (share) rbinom(n, d$n, plogis(x - 0.3)) else rpois(n, d$n * exp(2 + x))
  m <- if (share) list(column = "y", kind = "share", out_of = "n") else list(column = "y", kind = "count", exposure = "n")
  ours <- ask(d, crossed_plan(measures = list(m))); if (is.null(ours) || is.null(ours$factors)) return()
  d <- levelled(d)
  fit <- if (share) glm(cbind(y, n - y) ~ mat * air + block, quasibinomial, d, control = glm.control(1e-14, 100)) else glm(y ~ mat * air + block + offset(log(n)), quasipoisson, d, control = glm.control(1e-14, 100))
  # Wald F of the interaction on the model's scale.
  rows <- grep(":", names(coef(fit))); b <- coef(fit)[rows]
  f <- drop(t(b) %*% solve(vcov(fit)[rows, rows]) %*% b) / length(rows)
  hold(kind, i, "interaction F", ours$factors$interaction$test$statistic, f, 1e-6)
  if (!share) {
    s <- sum(residuals(fit, "pearson")^2) / df.residual(fit)
    grid <- emmeans(fit, ~ mat * air, offset = 0)
    effects_like(kind, i, list(factors = list(effects = Filter(function(e) TRUE, ours$factors$effects))), update(grid, df = df.residual(fit)), "mat", "air", 1e-5)
  }
  done[kind] <<- done[kind] + 1
}

split <- function(i) {
  lamps <- sample(2:4, 1); blocks <- runif(1) < 0.5; feeds <- c("water", "half", "full")[seq_len(sample(2:3, 1))]; reps <- sample(1:2, 1)
  d <- expand.grid(feed = feeds, lamp = seq_len(2 * lamps), rep = seq_len(reps), stringsAsFactors = FALSE)
  d$light <- ifelse(d$lamp %% 2 == 0, "strong", "sill"); d$block <- paste0("b", (d$lamp + 1) %/% 2)
  d$y <- round(50 + rnorm(2 * lamps, 0, sample(c(0.3, 4), 1))[d$lamp] + 6 * (d$light == "strong") + 4 * (d$feed == "full") + rnorm(nrow(d), 0, 2), 2)
  if (runif(1) < 0.4 && nrow(d) > 10) d <- d[-sample(nrow(d), 1), ]
  d$lamp <- paste0("L", d$lamp)
  design <- list(kind = "split_plot", fixture = "lamp", factors = list(list(column = "light", reference = "sill"), list(column = "feed", reference = "water")))
  if (blocks) design$block <- "block"
  ours <- ask(d, list(design = design)); if (is.null(ours) || is.null(ours$factors)) return()
  d$light <- relevel(factor(d$light), "sill"); d$feed <- relevel(factor(d$feed), "water")
  fit <- suppressMessages(lmer(if (blocks) y ~ light * feed + block + (1 | lamp) else y ~ light * feed + (1 | lamp), d,
    control = lmerControl(optimizer = "bobyqa", optCtrl = list(maxfun = 1e5, rhoend = 1e-9), calc.derivs = FALSE)))
  # Where lamps happen not to differ lmerTest pools them with the trays; we never judge lamps by trays.
  if (isSingular(fit, tol = 1e-3)) return()
  limit <- 2e-3; cap <- 2 * lamps - 2 - (if (blocks) lamps - 1 else 0)
  for (e in ours$factors$effects) {
    specs <- if (is.null(e$at)) as.formula(paste("~", e$factor)) else as.formula(paste("~", e$factor, "|", setdiff(c("light", "feed"), e$factor)))
    s <- as.data.frame(summary(contrast(emmeans(fit, specs), "trt.vs.ctrl1", adjust = "none")))
    row <- s[sapply(strsplit(as.character(s$contrast), " - "), `[`, 1) == strsplit(e$treatment, " with ")[[1]][1], ]
    if (!is.null(e$at)) row <- row[row[[setdiff(c("light", "feed"), e$factor)]] == e$at, ]
    hold("split", i, "effect", e$estimate, row$estimate, limit, row$SE); hold("split", i, "effect se", e$se, row$SE, limit)
    inside <- nrow(d) - length(fixef(fit)) - cap
    df <- if (e$factor == "light" && is.null(e$at)) min(row$df, cap) else min(row$df, inside)
    hold("split", i, paste("df of", e$treatment), e$df, df, 5e-3)
  }
  a <- anova(fit)
  hold("split", i, "interaction F", ours$factors$interaction$test$statistic, a["light:feed", "F value"], limit)
  done["split"] <<- done["split"] + 1
}

balance <- function(i) {
  n <- sample(3:5, 1); names <- c("water", "feed", "mat")[seq_len(sample(2:3, 1))]
  d <- data.frame(treatment = rep(names, n)); d$start <- round(rnorm(nrow(d), 20, 3), 1)
  d$y <- round(5 + d$start + 3 * (d$treatment == "feed") + rnorm(nrow(d), 0, 2), 1)
  gap <- function(t) { m <- tapply(d$start, t, mean); diff(range(m)) }
  within <- 100 * gap(d$treatment) / mean(d$start) * runif(1, 1.05, 2)
  ours <- ask(d, list(balance = list(column = "start", within_percent = within))); if (is.null(ours)) return()
  for (c in ours$contrasts) {
    own <- which(d$treatment %in% c(c$treatment, "water")); leads <- c()
    for (pick in combn(length(own), n, simplify = FALSE)) {
      t <- d$treatment; t[own] <- "water"; t[own[pick]] <- c$treatment
      if (gap(t) <= within / 100 * mean(d$start) * (1 + 1e-9)) leads <- c(leads, mean(d$y[own[pick]]) - mean(d$y[own[-pick]]))
    }
    hold("balance", i, "deals", c$randomisation$assignments, length(leads), 1e-12)
    hold("balance", i, "re-deal", c$randomisation$p, mean(abs(leads) >= abs(c$estimate) - 1e-9), 1e-9)
  }
  done["balance"] <<- done["balance"] + 1
}

tukey <- function(i) {
  k <- sample(3:6, 1); names <- c("water", paste0("feed", seq_len(k - 1)))
  d <- data.frame(treatment = rep(names, sample(3:6, k, replace = TRUE))); d$y <- round(50 + setNames(rnorm(k, 0, 4), names)[d$treatment] + rnorm(nrow(d), 0, 2.5), 2)
  ours <- ask(d, list(goal = "best")); if (is.null(ours)) return()
  fit <- aov(y ~ treatment, transform(d, treatment = factor(treatment, names)))
  h <- TukeyHSD(fit)$treatment; beaten <- c()
  for (r in rownames(h)) { ab <- strsplit(r, "-")[[1]]; if (h[r, "lwr"] > 0) beaten <- c(beaten, ab[2]); if (h[r, "upr"] < 0) beaten <- c(beaten, ab[1]) }
  # Close calls depend on the last digits of the quantile.
  if (any(abs(h[, "p adj"] - 0.05) < 1e-4)) return()
  if (!setequal(unlist(ours$best), setdiff(names, beaten))) { bad <<- bad + 1; cat("table", i, "best", unlist(ours$best), "R", setdiff(names, beaten), "\n") }
  done["tukey"] <<- done["tukey"] + 1
}

looks <- function(i) {
  at <- c(sort(sample(seq(0.2, 0.9, 0.1), sample(1:3, 1))), 1); alpha <- 0.05
  d <- data.frame(treatment = rep(c("water", "feed"), each = 5), y = round(rnorm(10, 50, 4), 1))
  spending <- sample(c("obrien_fleming", "pocock"), 1)
  spent <- if (spending == "pocock") alpha * log(1 + (exp(1) - 1) * at) else 4 * pnorm(-qnorm(1 - alpha / 4) / sqrt(at))
  z <- sapply(seq_along(at), function(now) {
    ours <- ask(d, list(looks = list(spending = spending, at = I(at), now = now)))
    if (now == 1) done["looks"] <<- done["looks"] + 1
    ours$look$limit_z
  })
  for (now in seq_along(at)) {
    t <- at[seq_len(now)]; s <- outer(t, t, function(a, b) sqrt(pmin(a, b) / pmax(a, b)))
    stay <- if (now == 1) 1 - 2 * pnorm(-z[1]) else pmvnorm(-z[seq_len(now)], z[seq_len(now)], corr = s, algorithm = Miwa(steps = 4096))
    hold("looks", i, paste(spending, "spent by look", now), 1 - as.numeric(stay), spent[now], 2e-3)
  }
}

windows <- function(i) {
  n <- sample(8:20, 1); d <- data.frame(treatment = rep(c("water", "feed"), each = n)); true <- rweibull(2 * n, 3, ifelse(d$treatment == "feed", 8, 11))
  step <- sample(1:3, 2 * n, replace = TRUE); d$after <- pmax(0, floor(true / step) * step); d$day <- d$after + step
  d$seen <- ifelse(d$day > 14, "no", "yes"); d$day[d$seen == "no"] <- d$after[d$seen == "no"]; d$after[d$seen == "no"] <- NA
  m <- list(column = "day", kind = "days", seen = "seen", after = "after")
  ours <- ask(d, list(measures = list(m), treatment = "treatment", control = "water")); if (is.null(ours)) return()
  for (t in ours$treatments) {
    own <- d[d$treatment == t$name, ]
    s <- survfit(Surv(ifelse(own$seen == "no", own$day, own$after), ifelse(own$seen == "no", NA, own$day), type = "interval2") ~ 1)
    half <- which(s$surv < 0.5 - 1e-6)
    if (length(half) == 0 || any(abs(s$surv - 0.5) < 1e-4)) next
    # survfit puts each mass in the middle of its window, we at its end: the median's window must hold it.
    r <- ours$contrasts[[1]]$restricted_mean
    middle <- s$time[half[1]]
    if (is.null(t$median)) { bad <<- bad + 1; cat("table", i, "windows: no median, R", middle, "\n"); next }
    hold("windows", i, paste("median of", t$name), t$median, middle, 1, 1)
  }
  done["windows"] <<- done["windows"] + 1
}

# Equivalence: the chance that both one-sided limits lie inside, by the bivariate noncentral t.
match_power <- function(i) {
  n <- sample(4:30, 1); cv <- sample(4:12, 1); margin <- cv * runif(1, 1.2, 2.5); df <- 2 * n - 2
  out <- system2(binary, c("power", "--treatments", 2, "--units", n, "--cv", paste0(cv, "%"), "--margin", sprintf("%.6f%%", margin), "--goal", "match", "--json"), stdout = TRUE, stderr = TRUE)
  ours <- tryCatch(fromJSON(paste(out, collapse = "\n")), error = function(e) { cat(out, "\n"); NULL })
  if (is.null(ours)) { bad <<- bad + 1; return() }
  shift <- sprintf("%.6f", margin); shift <- as.numeric(shift) / cv * sqrt(n / 2); t <- qt(0.975, df)
  worse <- 1 - pt(t, df, shift)
  # T1 = (d + M)/se > t and T2 = (d - M)/se < -t: integrate the normal over the spread estimate.
  both <- integrate(function(s) sapply(s, function(s) max(0, pnorm(shift - t * s) - pnorm(t * s - shift)) * 2 * df * s * dchisq(df * s^2, df)), 0, 5, rel.tol = 1e-10, subdivisions = 2000)$value
  hold("match power", i, "as good as", ours$power, worse, 1e-6, 1)
  hold("match power", i, "the same as", ours$power_same, both, 1e-6, 1)
  done["match power"] <<- done["match power"] + 1
}

for (i in seq_len(tables)) {
  latin(i); swap(i); factorial_amount(i); factorial_tallies(i, FALSE); factorial_tallies(i, TRUE); split(i); balance(i); tukey(i)
  if (i %% 4 == 0) { looks(i); windows(i); match_power(i) }
}
cat(R.version.string, "lmerTest", as.character(packageVersion("lmerTest")), "emmeans", as.character(packageVersion("emmeans")), "mvtnorm", as.character(packageVersion("mvtnorm")), "survival", as.character(packageVersion("survival")), "\n")
print(rbind(tables = done, `largest gap` = signif(worst, 3)))
cat(bad, "differences\n")
