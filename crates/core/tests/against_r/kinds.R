# Draws tables of counts, shares, days, scores and doses from a seed, analyses each with R and with the binary, and
# compares. Not part of the tests.
# Debian: apt-get install r-base-core r-cran-survival r-cran-coin r-cran-mvtnorm r-cran-jsonlite
# Run:    Rscript crates/core/tests/against_r/kinds.R target/debug/iron-twin 200 1
suppressMessages({ library(survival); library(coin); library(mvtnorm); library(jsonlite) })
source(file.path(dirname(sub("^--file=", "", grep("^--file=", commandArgs(), value = TRUE))), "verdicts.R"))
args <- commandArgs(trailingOnly = TRUE)
binary <- args[1]; tables <- as.integer(args[2]); set.seed(as.integer(args[3]))
worst <- c(count = 0, share = 0, days = 0, score = 0, dose = 0, dunnett = 0); done <- worst; bad <- 0

layout <- function(k = sample(2:4, 1)) {
  blocks <- sample(c(0, 0, 3:6), 1)
  names <- c("water", if (k > 1) paste0("feed", seq_len(k - 1)))
  d <- if (blocks > 0) expand.grid(treatment = names, block = paste0("b", seq_len(blocks)), stringsAsFactors = FALSE)
       else data.frame(treatment = rep(names, sample(3:8, k, replace = TRUE)), stringsAsFactors = FALSE)
  if (runif(1) < 0.4 && nrow(d) > 2 * k + 2) {
    cut <- d[-sample(nrow(d), 1), , drop = FALSE]
    if (all(table(factor(cut$treatment, names)) >= 2)) d <- cut
  }
  d
}

ask <- function(d, words) {
  file <- tempfile(fileext = ".csv"); write.csv(d, file, row.names = FALSE)
  if ("block" %in% names(d)) words <- c(words, "--block", "block")
  if (!("--dose" %in% words)) words <- c(words, "--treatment", "treatment", "--control", "water")
  kind <- words[which(words == "--kind") + 1]
  q <- if (kind == "dose") NULL else draw_question(kind)
  if (!is.null(q)) words <- c(words[!(words %in% c("--margin"))], question_words(q))
  out <- suppressWarnings(system2(binary, c("analyse", file, words, "--json"), stdout = TRUE, stderr = TRUE))
  ours <- tryCatch(fromJSON(paste(out, collapse = "\n"), simplifyVector = FALSE), error = function(e) { cat(out, "\n"); NULL })
  if (!is.null(q) && !is.null(ours)) for (v in verdict_differences(ours, q, kind)) { bad <<- bad + 1; cat(kind, "verdict", v, "\n") }
  ours
}

hold <- function(kind, table, what, ours, theirs, limit, scale = NULL) {
  if (is.null(ours)) ours <- NA
  size <- if (is.null(scale)) max(abs(theirs), 1e-12) else scale
  g <- abs(ours - theirs) / size
  if (is.na(g) || g > limit) { bad <<- bad + 1; cat("table", table, kind, what, "ours", ours, "R", theirs, "\n") }
  else worst[kind] <<- max(worst[kind], g)
}

# Dunnett on the scale of the model, from the covariance of the contrasts: two-sided p by the t integral.
together <- function(kind, i, ours, fit, rows, df) {
  if (length(rows) < 2) return()
  v <- vcov(fit)[rows, rows]; t <- coef(fit)[rows] / sqrt(diag(v))
  for (j in seq_along(rows)) {
    if (abs(t[j]) > 8) next
    p <- 1 - pmvt(rep(-abs(t[j]), length(rows)), rep(abs(t[j]), length(rows)), df = as.integer(df), corr = cov2cor(v),
                  algorithm = GenzBretz(maxpts = 1e6, abseps = 1e-7))
    name <- sub("^treatment", "", rows[j])
    for (c in ours$contrasts) if (c$treatment == name) hold("dunnett", i, name, c$simultaneous$p, as.numeric(p), 2e-5, 1)
  }
}

counts <- function(i, share) {
  d <- layout(); n <- nrow(d); rate <- setNames(exp(rnorm(length(unique(d$treatment)), if (share) 0 else 1.5, 0.6)), unique(d$treatment))
  d$n <- if (share) sample(5:40, n, replace = TRUE) else round(runif(n, 0.5, 4), 2)
  d$y <- if (share) rbinom(n, d$n, plogis(log(rate[d$treatment]) + rnorm(n, 0, 0.4))) else rnbinom(n, size = 4, mu = rate[d$treatment] * d$n)
  kind <- if (share) "share" else "count"
  ours <- ask(d, c("--kind", kind, "--measure", "y", if (share) c("--out-of", "n") else c("--exposure", "n")))
  if (is.null(ours)) { bad <<- bad + 1; return() }
  sums <- tapply(d$y, d$treatment, sum); sizes <- tapply(d$n, d$treatment, sum)
  edge <- sums == 0 | (share & sums == sizes)
  if ("block" %in% names(d)) { b <- tapply(d$y, d$block, sum); edge <- edge | any(b == 0) | (share && any(b == tapply(d$n, d$block, sum))) }
  if (any(edge)) return()
  d$treatment <- relevel(factor(d$treatment), "water")
  formula <- paste(if (share) "cbind(y, n - y)" else "y", "~ treatment", if ("block" %in% names(d)) "+ block", if (!share) "+ offset(log(n))")
  fit <- suppressWarnings(glm(as.formula(formula), if (share) quasibinomial else quasipoisson, d, control = glm.control(epsilon = 1e-14, maxit = 100)))
  if (df.residual(fit) < 1 || !fit$converged || max(abs(coef(fit))) > 12) return()
  s <- summary(fit); df <- df.residual(fit)
  hold(kind, i, "dispersion", ours$dispersion, s$dispersion, 1e-6)
  for (c in ours$contrasts) {
    row <- coef(s)[paste0("treatment", c$treatment), ]; reach <- qt(0.975, df) * row[2]
    keys <- if (share) c("odds_ratio", "odds_ratio_low", "odds_ratio_high") else c("ratio", "ratio_low", "ratio_high")
    for (k in 1:3) hold(kind, i, keys[k], c[[keys[k]]], exp(row[1] + c(0, -reach, reach)[k]), 1e-6)
    hold(kind, i, "p", c$p, row[4], 1e-6); hold(kind, i, "df", c$df, df, 1e-12)
    if (share) {
      # Points: predicted shares averaged over blocks, by the delta method with a numerical gradient.
      grid <- function(t) { g <- if ("block" %in% names(d)) data.frame(treatment = t, block = levels(factor(d$block))) else data.frame(treatment = t); g$n <- 1; g }
      at <- function(beta, t) { x <- model.matrix(delete.response(terms(fit)), grid(factor(t, levels(d$treatment))), xlev = fit$xlevels); mean(plogis(x %*% beta)) }
      gap <- function(beta) 100 * (at(beta, c$treatment) - at(beta, "water"))
      beta <- coef(fit); gradient <- sapply(seq_along(beta), function(j) { h <- 1e-5; up <- down <- beta; up[j] <- up[j] + h; down[j] <- down[j] - h; (gap(up) - gap(down)) / (2 * h) })
      hold(kind, i, "points", c$estimate, gap(beta), 1e-6, 1)
      hold(kind, i, "se of points", c$se, sqrt(drop(t(gradient) %*% vcov(fit) %*% gradient)), 1e-5)
    }
  }
  together(kind, i, ours, fit, grep("^treatment", names(coef(fit)), value = TRUE), df)
  done[kind] <<- done[kind] + 1
}

days <- function(i) {
  d <- layout(); n <- nrow(d); mean <- setNames(runif(length(unique(d$treatment)), 6, 16), unique(d$treatment))
  d$day <- ceiling(rgamma(n, 9, 9 / mean[d$treatment])); d$seen <- ifelse(runif(n) < 0.8, "yes", "no")
  ours <- ask(d, c("--kind", "days", "--measure", "day", "--seen", "seen"))
  if (is.null(ours)) { bad <<- bad + 1; return() }
  d$event <- d$seen == "yes"; block <- "block" %in% names(d)
  curves <- lapply(unique(d$treatment), function(t) survfit(Surv(day, event) ~ 1, d[d$treatment == t, ])); names(curves) <- unique(d$treatment)
  tau <- ours$contrasts[[1]]$restricted_mean$tau
  for (t in ours$treatments) {
    f <- curves[[t$name]]; m <- tryCatch(summary(f, rmean = tau)$table, error = function(e) NULL)
    if (is.null(m)) next  # R refuses a last day before the first event.
    hold("days", i, "mean", t$mean, m[["rmean"]], 1e-6); hold("days", i, "se", t$se, m[["se(rmean)"]], 1e-6, max(m[["se(rmean)"]], 1e-3))
    if (!is.na(m[["median"]])) hold("days", i, "median", t$median, m[["median"]], 1e-9)
    else if (!is.null(t$median)) { bad <<- bad + 1; cat("table", i, "median", t$name, "\n") }
  }
  for (c in ours$contrasts) {
    two <- d[d$treatment %in% c("water", c$treatment), ]
    if (block) { both <- tapply(two$treatment, two$block, function(x) length(unique(x))); two <- two[two$block %in% names(both)[both == 2], ] }
    test <- tryCatch(if (block) survdiff(Surv(day, event) ~ treatment + strata(block), two) else survdiff(Surv(day, event) ~ treatment, two), error = function(e) NULL)
    if (is.null(test) || is.null(c$logrank$chi2) || test$chisq < 1e-9) next
    hold("days", i, "chi2", c$logrank$chi2, test$chisq, 1e-6)
  }
  done["days"] <<- done["days"] + 1
}

scores <- function(i) {
  d <- layout(); d$score <- sample(1:5, nrow(d), replace = TRUE) + (d$treatment != "water") * sample(0:1, nrow(d), replace = TRUE)
  ours <- ask(d, c("--kind", "score", "--measure", "score"))
  if (is.null(ours)) { bad <<- bad + 1; return() }
  block <- "block" %in% names(d)
  for (c in ours$contrasts) {
    two <- d[d$treatment %in% c("water", c$treatment), ]; two$treatment <- factor(two$treatment)
    if (block) { both <- tapply(two$treatment, two$block, function(x) length(unique(x))); two <- droplevels(two[two$block %in% names(both)[both == 2], ]); two$block <- factor(two$block) }
    if (length(unique(two$score)) < 2) next
    test <- if (block) NULL else wilcox_test(score ~ treatment, two, distribution = "exact")
    if (block) {
      # Every deal inside every block, by convolution: coin has no exact test with blocks.
      dist <- c("0" = 1); seen <- 0
      for (b in levels(two$block)) {
        own <- two[two$block == b, ]; r <- rank(own$score); k <- sum(own$treatment == c$treatment)
        e <- k * mean(r); seen <- seen + sum(r[own$treatment == c$treatment]) - e
        sums <- round(combn(length(r), k, function(x) sum(r[x])) - e, 6); here <- table(sums) / length(sums)
        all <- outer(as.numeric(names(dist)), as.numeric(names(here)), "+"); w <- outer(dist, as.numeric(here))
        dist <- tapply(as.vector(w), round(as.vector(all), 6), sum)
      }
      p <- sum(dist[abs(as.numeric(names(dist))) >= abs(seen) - 1e-9])
    } else p <- pvalue(test)
    hold("score", i, "exact p", c$exact_p, as.numeric(p), 1e-6)
    if (!block) {
      a <- two$score[two$treatment == c$treatment]; b <- two$score[two$treatment == "water"]
      hold("score", i, "superiority", c$probability_of_superiority, mean(outer(a, b, function(x, y) (x > y) + 0.5 * (x == y))), 1e-9)
    }
  }
  if (!block && length(unique(d$score)) > 1) hold("score", i, "Kruskal-Wallis", ours$overall$statistic, kruskal.test(score ~ factor(treatment), d)$statistic, 1e-6)
  if (block && all(table(d$treatment, d$block) == 1) && !is.null(ours$overall)) hold("score", i, "Friedman", ours$overall$statistic, friedman.test(d$score, factor(d$treatment), factor(d$block))$statistic, 1e-6)
  done["score"] <<- done["score"] + 1
}

doses <- function(i) {
  ladder <- c(0, 0.5, 1, 2, 4, 8, 16); d <- data.frame(dose = rep(ladder, each = sample(2:4, 1)))
  d$y <- 2 + 8 / (1 + exp(runif(1, 1, 4) * (log(d$dose) - log(runif(1, 1, 5))))) + rnorm(nrow(d), 0, 0.4); d$y <- round(d$y, 3)
  ours <- ask(d, c("--kind", "dose", "--measure", "y", "--dose", "dose"))
  if (is.null(ours)) { bad <<- bad + 1; return() }
  fit <- lm(y ~ dose, d); hold("dose", i, "slope", ours$linear$slope, coef(fit)[2], 1e-8)
  joints <- function(j) sum(resid(lm(d$y ~ pmin(d$dose, j)))^2)
  grid <- seq(0.01, 16, by = 0.01); least <- min(sapply(grid, joints))
  if (ours$linear_plateau$rss > least + 1e-9) { bad <<- bad + 1; cat("table", i, "plateau", ours$linear_plateau$rss, "grid", least, "\n") }
  l <- ours$log_logistic
  nl <- tryCatch(nls(y ~ lo + (up - lo) / (1 + exp(b * (log(pmax(dose, 1e-300)) - e))), d, start = list(b = l$slope, lo = l$lower, up = l$upper, e = log(l$ed50)), control = nls.control(maxiter = 200, tol = 1e-8)), error = function(e) NULL)
  if (!is.null(nl)) {
    hold("dose", i, "ed50", l$ed50, exp(coef(nl)[["e"]]), 1e-4); hold("dose", i, "residual sd", l$residual_sd, sigma(nl), 1e-6)
    hold("dose", i, "se of ed50", l$se_ed50, exp(coef(nl)[["e"]]) * coef(summary(nl))["e", 2], 1e-3)
  }
  done["dose"] <<- done["dose"] + 1
}

for (i in seq_len(tables)) switch(1 + i %% 5, counts(i, FALSE), counts(i, TRUE), days(i), scores(i), doses(i))
cat(R.version.string, "survival", as.character(packageVersion("survival")), "coin", as.character(packageVersion("coin")), "mvtnorm", as.character(packageVersion("mvtnorm")), "\n")
cat("compared:", paste(names(done)[1:5], done[1:5]), "\n"); cat(bad, "differences; largest relative gap:", paste(names(worst), signif(worst, 3)), "\n")
cat("verdicts compared:", paste(names(seen), seen), "\n")
