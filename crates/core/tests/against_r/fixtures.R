# Writes crates/core/tests/fixtures/designs.json: open data sets that ship with R, what R makes of them, and the versions.
# The tests read the file; they do not run R.
# Debian: apt-get install r-base-core r-cran-mass r-cran-lmertest r-cran-emmeans r-cran-mvtnorm r-cran-jsonlite r-cran-npsurv
# Run:    Rscript crates/core/tests/against_r/fixtures.R > crates/core/tests/fixtures/designs.json
suppressMessages({ library(MASS); library(lmerTest); library(emmeans); library(mvtnorm); library(jsonlite); library(npsurv) })
emm_options(lmer.df = "satterthwaite", msg.interaction = FALSE); data(cancer, package = "npsurv")
csv <- function(d) paste(c(paste(names(d), collapse = ","), apply(format(d, digits = 15, trim = TRUE), 1, paste, collapse = ",")), collapse = "\n")
version <- function(p) paste(p, as.character(packageVersion(p)))
plan <- function(...) list(format = "iron-twin/plan/1", ...)
out <- list()

# Latin square: eight treatments in eight rows and columns. The decrease of honeybees, Finney 1947, as in R's datasets.
d <- transform(OrchardSprays, treatment = as.character(treatment))
fit <- lm(decrease ~ relevel(factor(treatment), "H") + factor(rowpos) + factor(colpos), d)
s <- coef(summary(fit))[2:8, ]
out$latin <- list(source = "R datasets: OrchardSprays (Finney 1947, Probit Analysis), lm; square root not taken",
  csv = csv(d), plan = plan(treatment = "treatment", control = "H", design = list(kind = "latin_square", row = "rowpos", column = "colpos"), measures = list(list(column = "decrease", better = "lower"))),
  contrasts = data.frame(treatment = LETTERS[1:7], estimate = s[, 1], se = s[, 2], df = df.residual(fit), p = s[, 4]),
  overall = as.list(anova(lm(decrease ~ factor(rowpos) + factor(colpos), d), fit)[2, c("F", "Pr(>F)")]))
# The joint distribution of the seven contrasts with the control.
t7 <- s[7, 3]; v <- vcov(fit)[2:8, 2:8]
set.seed(1); out$latin$dunnett_g <- 1 - as.numeric(pmvt(rep(-abs(t7), 7), rep(abs(t7), 7), df = df.residual(fit), corr = cov2cor(v), algorithm = GenzBretz(2.5e7, 1e-8)))

# Split plot: oat varieties on whole plots, nitrogen on their quarters, six blocks. Yates 1935, as in MASS.
d <- data.frame(yield = oats$Y, plot = paste0(oats$B, oats$V), block = as.character(oats$B), variety = as.character(oats$V), nitrogen = as.character(oats$N))
fit <- lmer(yield ~ variety * nitrogen + block + (1 | plot), transform(d, variety = factor(variety, c("Victory", "Golden.rain", "Marvellous")), nitrogen = factor(nitrogen, c("0.0cwt", "0.2cwt", "0.4cwt", "0.6cwt"))),
  control = lmerControl(optimizer = "bobyqa", optCtrl = list(maxfun = 1e5, rhoend = 1e-10)))
pick <- function(specs, label) { s <- as.data.frame(summary(contrast(emmeans(fit, specs), "trt.vs.ctrl1", adjust = "none"))); data.frame(effect = label, of = sub(" - .*", "", s$contrast), at = if (is.null(s[[2]]) || !(names(s)[2] %in% c("variety", "nitrogen"))) "" else as.character(s[[2]]), estimate = s$estimate, se = s$SE, df = s$df, p = s$p.value) }
a <- anova(fit)
out$split <- list(source = paste("MASS: oats (Yates 1935, Complex experiments);", version("lmerTest"), version("emmeans")), csv = csv(d),
  plan = plan(design = list(kind = "split_plot", fixture = "plot", block = "block", factors = list(list(column = "variety", reference = "Victory"), list(column = "nitrogen", reference = "0.0cwt"))), measures = list(list(column = "yield"))),
  effects = rbind(pick(~variety, "variety"), pick(~nitrogen, "nitrogen"), pick(~ variety | nitrogen, "variety"), pick(~ nitrogen | variety, "nitrogen")),
  interaction = list(f = a["variety:nitrogen", "F value"], df = c(a["variety:nitrogen", "NumDF"], a["variety:nitrogen", "DenDF"]), p = a["variety:nitrogen", "Pr(>F)"]))

# Factorial: tooth growth by supplement and dose, 2 x 3 with ten animals each, as in R's datasets.
d <- data.frame(len = ToothGrowth$len, supp = as.character(ToothGrowth$supp), dose = paste0("d", ToothGrowth$dose))
fit <- lm(len ~ supp * dose, transform(d, supp = factor(supp, c("VC", "OJ")), dose = factor(dose, c("d0.5", "d1", "d2"))))
a <- anova(fit)
out$factorial <- list(source = "R datasets: ToothGrowth (Crampton 1947), lm, emmeans", csv = csv(d),
  plan = plan(design = list(kind = "factorial", factors = list(list(column = "supp", reference = "VC"), list(column = "dose", reference = "d0.5"))), measures = list(list(column = "len"))),
  effects = { names(a); p <- function(specs, label) { s <- as.data.frame(summary(contrast(emmeans(fit, specs), "trt.vs.ctrl1", adjust = "none"))); data.frame(effect = label, of = sub(" - .*", "", s$contrast), at = if (names(s)[2] %in% c("supp", "dose")) as.character(s[[2]]) else "", estimate = s$estimate, se = s$SE, df = s$df, p = s$p.value) }
    rbind(p(~supp, "supp"), p(~dose, "dose"), p(~ supp | dose, "supp"), p(~ dose | supp, "dose")) },
  interaction = list(f = a["supp:dose", "F value"], df = c(a["supp:dose", "Df"], a["Residuals", "Df"]), p = a["supp:dose", "Pr(>F)"]))

# All pairs: warp breaks of the six kinds of loom, as in R's datasets; which may be the best by TukeyHSD.
d <- data.frame(breaks = warpbreaks$breaks, loom = paste0(warpbreaks$wool, warpbreaks$tension))
h <- TukeyHSD(aov(breaks ~ loom, d))$loom
beaten <- unlist(lapply(rownames(h), function(r) { ab <- strsplit(r, "-")[[1]]; if (h[r, "lwr"] > 0) ab[2] else if (h[r, "upr"] < 0) ab[1] }))
q <- expand.grid(groups = c(2, 3, 5, 8), df = c(6.5, 12, 60), confidence = c(0.9, 0.95, 0.99)); q$critical_t <- mapply(function(g, d, c) qtukey(c, g, d) / sqrt(2), q$groups, q$df, q$confidence)
out$tukey <- list(source = "R datasets: warpbreaks (Tippett 1950), TukeyHSD; qtukey", csv = csv(d), plan = plan(treatment = "loom", control = "AL", goal = "best", measures = list(list(column = "breaks"))), best = setdiff(unique(d$loom), beaten), quantiles = q)

# Windows between checks: breast retraction, Finkelstein and Wolfe 1985, as in npsurv; the self-consistent estimate.
out$windows <- list(source = paste("npsurv: cancer (Finkelstein and Wolfe 1985, Biometrics 41);", version("npsurv"), "npsurv()"),
  groups = lapply(split(cancer, cancer$group), function(g) { f <- npsurv(as.matrix(g[, 1:2]))$f; list(left = g$L, right = ifelse(is.finite(g$R), g$R, -1), support_left = f$left, support_right = ifelse(is.finite(f$right), f$right, -1), mass = f$p) }))

# Looks: the chance to stay inside limits, by the multivariate normal.
at <- c(0.25, 0.5, 0.75, 1); z <- c(4.3, 2.9, 2.4, 2.05); s <- outer(at, at, function(a, b) sqrt(pmin(a, b) / pmax(a, b)))
out$looks <- list(source = paste(version("mvtnorm"), "pmvnorm, Miwa with 4096 steps"), at = at, z = z, error = sapply(1:4, function(k) if (k == 1) 2 * pnorm(-z[1]) else 1 - as.numeric(pmvnorm(-z[1:k], z[1:k], corr = s[1:k, 1:k], algorithm = Miwa(steps = 4096)))))

# Equivalence: both one-sided tests at 2.5 %, by integrating the normal over the spread estimate.
e <- expand.grid(units = c(3, 6, 12, 25), margin_sd = c(0.8, 1.2, 2))
e$power <- mapply(function(n, m) { df <- 2 * n - 2; shift <- m * sqrt(n / 2); t <- qt(0.975, df)
  integrate(function(s) sapply(s, function(s) max(0, pnorm(shift - t * s) - pnorm(t * s - shift)) * 2 * df * s * dchisq(df * s^2, df)), 0, min(5, shift / t), rel.tol = 1e-11, subdivisions = 4000)$value }, e$units, e$margin_sd)
out$equivalence <- list(source = "Schuirmann 1987; R integrate() over the chi of the spread", cases = e)
out$version <- R.version.string
cat(toJSON(out, auto_unbox = TRUE, digits = 14, pretty = 1), "\n")
