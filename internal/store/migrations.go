package store

import (
	"strings"

	gormigrate "github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// Migrations are numbered; what one does is never changed once released. The server
// cannot take back a change of tables, so a start that is killed may have done only the
// first statements of one: each can be run again, by its own words (IF NOT EXISTS) or
// because a column that it adds tells that it has been done.
var migrationSteps = []struct {
	id  string
	sql []string
}{
	{"0001", []string{
		`CREATE TABLE IF NOT EXISTS studies (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			name VARCHAR(200) NOT NULL,
			units VARCHAR(80) NOT NULL,
			decimals TINYINT UNSIGNED NOT NULL,
			row_count BIGINT UNSIGNED NOT NULL,
			created_at DATETIME(3) NOT NULL,
			updated_at DATETIME(3) NOT NULL,
			deleted_at DATETIME(3) NULL,
			version INT UNSIGNED NOT NULL)`,
		`CREATE TABLE IF NOT EXISTS source_files (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			name VARCHAR(255) NOT NULL,
			size BIGINT UNSIGNED NOT NULL,
			sha256 CHAR(64) NOT NULL,
			settings TEXT NOT NULL,
			arrived_at DATETIME(3) NOT NULL,
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS source_chunks (
			source_file_id BIGINT UNSIGNED NOT NULL,
			seq INT UNSIGNED NOT NULL,
			checksum INT UNSIGNED NOT NULL,
			data MEDIUMBLOB NOT NULL,
			PRIMARY KEY (source_file_id, seq),
			FOREIGN KEY (source_file_id) REFERENCES source_files (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS questions (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			position INT UNSIGNED NOT NULL,
			name VARCHAR(255) NOT NULL,
			wording TEXT NOT NULL,
			kind VARCHAR(20) NOT NULL,
			kind_reason VARCHAR(40) NOT NULL,
			version INT UNSIGNED NOT NULL,
			UNIQUE (study_id, position),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS answers (
			question_id BIGINT UNSIGNED NOT NULL,
			slot SMALLINT UNSIGNED NOT NULL,
			position INT UNSIGNED NOT NULL,
			code MEDIUMTEXT NOT NULL,
			label TEXT NOT NULL,
			missing VARCHAR(80) NOT NULL,
			same_as SMALLINT UNSIGNED NULL,
			PRIMARY KEY (question_id, slot),
			FOREIGN KEY (question_id) REFERENCES questions (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS column_chunks (
			question_id BIGINT UNSIGNED NOT NULL,
			seq INT UNSIGNED NOT NULL,
			encoding TINYINT UNSIGNED NOT NULL,
			row_count INT UNSIGNED NOT NULL,
			checksum INT UNSIGNED NOT NULL,
			data MEDIUMBLOB NOT NULL,
			PRIMARY KEY (question_id, seq),
			FOREIGN KEY (question_id) REFERENCES questions (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS claims (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			question_id BIGINT UNSIGNED NOT NULL,
			number INT UNSIGNED NOT NULL,
			role VARCHAR(20) NOT NULL,
			level DOUBLE NOT NULL,
			mode VARCHAR(20) NOT NULL,
			rescale BOOLEAN NOT NULL,
			reference_kind VARCHAR(20) NOT NULL,
			source VARCHAR(200) NOT NULL,
			source_date VARCHAR(40) NOT NULL,
			stated_at DATETIME(3) NOT NULL,
			first_run_at DATETIME(3) NULL,
			deleted_at DATETIME(3) NULL,
			version INT UNSIGNED NOT NULL,
			UNIQUE (study_id, number),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE,
			FOREIGN KEY (question_id) REFERENCES questions (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS claim_shares (
			claim_id BIGINT UNSIGNED NOT NULL,
			slot SMALLINT UNSIGNED NOT NULL,
			figure VARCHAR(40) NOT NULL,
			PRIMARY KEY (claim_id, slot),
			FOREIGN KEY (claim_id) REFERENCES claims (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS changes (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			subject VARCHAR(20) NOT NULL,
			subject_id BIGINT UNSIGNED NOT NULL,
			field VARCHAR(40) NOT NULL,
			old_value MEDIUMTEXT NOT NULL,
			new_value MEDIUMTEXT NOT NULL,
			after_run BOOLEAN NOT NULL,
			at DATETIME(3) NOT NULL,
			INDEX (study_id, subject, subject_id),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
	}},
	{"0002", []string{
		`ALTER TABLE studies ADD COLUMN IF NOT EXISTS count_question_id BIGINT UNSIGNED NULL`,
		`ALTER TABLE questions ADD INDEX (study_id), DROP INDEX study_id, ADD INDEX (study_id, position),
			ADD COLUMN note TEXT NOT NULL DEFAULT '', ADD COLUMN section VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN base MEDIUMTEXT NULL, ADD COLUMN derivation MEDIUMTEXT NULL,
			ADD COLUMN list_id BIGINT UNSIGNED NULL, ADD COLUMN generation INT UNSIGNED NOT NULL DEFAULT 1,
			ADD COLUMN deleted BOOLEAN NOT NULL DEFAULT FALSE`,
		`ALTER TABLE answers ADD COLUMN IF NOT EXISTS score DOUBLE NULL, ADD COLUMN IF NOT EXISTS lower_limit DOUBLE NULL, ADD COLUMN IF NOT EXISTS upper_limit DOUBLE NULL`,
		`ALTER TABLE column_chunks ADD COLUMN generation INT UNSIGNED NOT NULL DEFAULT 1 AFTER question_id,
			DROP PRIMARY KEY, ADD PRIMARY KEY (question_id, generation, seq)`,
		`ALTER TABLE source_files ADD COLUMN IF NOT EXISTS arrival MEDIUMTEXT NOT NULL DEFAULT '{}'`,
		`ALTER TABLE claims ADD COLUMN IF NOT EXISTS subgroup_id BIGINT UNSIGNED NULL`,
		`CREATE TABLE IF NOT EXISTS parts (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			kind VARCHAR(20) NOT NULL,
			name VARCHAR(200) NOT NULL,
			definition MEDIUMTEXT NOT NULL,
			deleted BOOLEAN NOT NULL,
			version INT UNSIGNED NOT NULL,
			INDEX (study_id, kind),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS edits (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			title VARCHAR(60) NOT NULL,
			title_values TEXT NOT NULL,
			state VARCHAR(10) NOT NULL,
			at DATETIME(3) NOT NULL,
			INDEX (study_id, state),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS edit_snapshots (
			edit_id BIGINT UNSIGNED NOT NULL,
			subject VARCHAR(20) NOT NULL,
			subject_id BIGINT UNSIGNED NOT NULL,
			before_edit LONGTEXT NOT NULL,
			after_edit LONGTEXT NOT NULL,
			generation_before INT UNSIGNED NOT NULL,
			generation_after INT UNSIGNED NOT NULL,
			PRIMARY KEY (edit_id, subject, subject_id),
			INDEX (subject, subject_id),
			FOREIGN KEY (edit_id) REFERENCES edits (id) ON DELETE CASCADE)`,
	}},
	{"0003", []string{
		`ALTER TABLE studies ADD COLUMN IF NOT EXISTS last_claim INT UNSIGNED NOT NULL DEFAULT 0`,
		`UPDATE studies s SET last_claim = GREATEST(last_claim, (SELECT COALESCE(MAX(number), 0) FROM claims c WHERE c.study_id = s.id))`,
		`ALTER TABLE answers MODIFY label MEDIUMTEXT NOT NULL, MODIFY missing VARCHAR(200) NOT NULL`,
		`ALTER TABLE source_files ADD COLUMN IF NOT EXISTS edit_id BIGINT UNSIGNED NULL`,
		`ALTER TABLE questions ADD COLUMN IF NOT EXISTS last_generation INT UNSIGNED NOT NULL DEFAULT 1`,
		`UPDATE questions q SET last_generation = GREATEST(last_generation, generation, (SELECT COALESCE(MAX(generation), 1) FROM column_chunks c WHERE c.question_id = q.id))`,
	}},
	{"0004", []string{
		`ALTER TABLE claim_shares ADD COLUMN IF NOT EXISTS code MEDIUMTEXT NULL`,
		`UPDATE claim_shares s JOIN claims c ON c.id = s.claim_id JOIN answers a ON a.question_id = c.question_id AND a.slot = s.slot SET s.code = a.code WHERE s.code IS NULL`,
		`ALTER TABLE claims ADD COLUMN IF NOT EXISTS first_inputs LONGTEXT NULL`,
	}},
	{"0005", []string{
		`ALTER TABLE questions ADD COLUMN IF NOT EXISTS short VARCHAR(60) NOT NULL DEFAULT ''`,
	}},
	{"0006", []string{
		`ALTER TABLE studies ADD COLUMN IF NOT EXISTS revision BIGINT UNSIGNED NOT NULL DEFAULT 1`,
		`CREATE TABLE IF NOT EXISTS analyses (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			question_id BIGINT UNSIGNED NOT NULL,
			number INT UNSIGNED NULL,
			spec LONGTEXT NOT NULL,
			stated_at DATETIME(3) NOT NULL,
			first_run_at DATETIME(3) NULL,
			first_inputs LONGTEXT NULL,
			deleted_at DATETIME(3) NULL,
			version INT UNSIGNED NOT NULL,
			UNIQUE (study_id, number),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE,
			FOREIGN KEY (question_id) REFERENCES questions (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS analysis_uses (
			analysis_id BIGINT UNSIGNED NOT NULL,
			subject VARCHAR(20) NOT NULL,
			subject_id BIGINT UNSIGNED NOT NULL,
			PRIMARY KEY (analysis_id, subject, subject_id),
			INDEX (subject, subject_id),
			FOREIGN KEY (analysis_id) REFERENCES analyses (id) ON DELETE CASCADE)`,
		// Claims, which knew one method, become specs of it. Codes are long texts, so the list
		// of figures must not be cut.
		`SET STATEMENT group_concat_max_len = 1073741824 FOR
		INSERT IGNORE INTO analyses (id, study_id, question_id, number, spec, stated_at, first_run_at, first_inputs, deleted_at, version)
		SELECT c.id, c.study_id, c.question_id, c.number, CONCAT('{"method":"goodness-of-fit","version":1,"questions":["', c.question_id, '"],',
			IF(c.subgroup_id IS NULL, '', CONCAT('"subgroup":"', c.subgroup_id, '",')),
			'"settings":{"shares":{"scale":', JSON_QUOTE(c.mode), ',"rescale":', IF(c.rescale, 'true', 'false'),
			',"figures":[', COALESCE((SELECT GROUP_CONCAT(CONCAT('{"code":', JSON_QUOTE(COALESCE(s.code, '')), ',"figure":', JSON_QUOTE(s.figure), '}') ORDER BY s.slot SEPARATOR ',') FROM claim_shares s WHERE s.claim_id = c.id), ''),
			'],"source":{"kind":', JSON_QUOTE(c.reference_kind), ',"title":', JSON_QUOTE(c.source), ',"date":', JSON_QUOTE(c.source_date), '}},"role":', JSON_QUOTE(c.role), ',"level":', c.level, '}}'),
			c.stated_at, c.first_run_at, c.first_inputs, c.deleted_at, c.version FROM claims c`,
		`INSERT IGNORE INTO analysis_uses SELECT a.id, 'question', a.question_id FROM analyses a`,
		`INSERT IGNORE INTO analysis_uses SELECT c.id, 'part', c.subgroup_id FROM claims c WHERE c.subgroup_id IS NOT NULL`,
		`DROP TABLE IF EXISTS claim_shares, claims`,
	}},
	{"0007", []string{
		`CREATE TABLE IF NOT EXISTS share_sets (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			version INT UNSIGNED NOT NULL,
			deleted BOOLEAN NOT NULL)`,
		`CREATE TABLE IF NOT EXISTS share_versions (
			set_id BIGINT UNSIGNED NOT NULL,
			version INT UNSIGNED NOT NULL,
			definition MEDIUMTEXT NOT NULL,
			created_at DATETIME(3) NOT NULL,
			PRIMARY KEY (set_id, version),
			FOREIGN KEY (set_id) REFERENCES share_sets (id) ON DELETE CASCADE)`,
	}},
	{"0008", []string{`ALTER TABLE source_files ADD waiting VARCHAR(64) NOT NULL DEFAULT ''`}},
	// Who did it; nobody is known of what was kept before.
	{"0009", []string{
		`ALTER TABLE edits ADD COLUMN IF NOT EXISTS author VARCHAR(64) NOT NULL DEFAULT ''`,
		`ALTER TABLE analyses ADD COLUMN IF NOT EXISTS author VARCHAR(64) NOT NULL DEFAULT ''`,
		`ALTER TABLE parts ADD COLUMN IF NOT EXISTS author VARCHAR(64) NOT NULL DEFAULT ''`,
		`ALTER TABLE source_files ADD COLUMN IF NOT EXISTS author VARCHAR(64) NOT NULL DEFAULT ''`,
		`ALTER TABLE share_versions ADD COLUMN IF NOT EXISTS author VARCHAR(64) NOT NULL DEFAULT ''`,
	}},
	// Accounts, where people sign in. Of tokens only their hashes are kept.
	{"0010", []string{
		`CREATE TABLE IF NOT EXISTS accounts (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			email VARCHAR(190) NOT NULL UNIQUE,
			name VARCHAR(120) NOT NULL,
			password VARCHAR(200) NOT NULL,
			administrator BOOLEAN NOT NULL,
			created_at DATETIME(3) NOT NULL,
			disabled_at DATETIME(3) NULL)`,
		`CREATE TABLE IF NOT EXISTS sessions (
			hash CHAR(64) PRIMARY KEY,
			account_id BIGINT UNSIGNED NOT NULL,
			created_at DATETIME(3) NOT NULL,
			seen_at DATETIME(3) NOT NULL,
			expires_at DATETIME(3) NOT NULL,
			agent VARCHAR(200) NOT NULL,
			address VARCHAR(64) NOT NULL,
			INDEX (account_id),
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS invitations (
			hash CHAR(64) PRIMARY KEY,
			email VARCHAR(190) NOT NULL,
			name VARCHAR(120) NOT NULL,
			invited_by BIGINT UNSIGNED NOT NULL,
			expires_at DATETIME(3) NOT NULL,
			used_at DATETIME(3) NULL)`,
		`CREATE TABLE IF NOT EXISTS members (
			study_id BIGINT UNSIGNED NOT NULL,
			account_id BIGINT UNSIGNED NOT NULL,
			role VARCHAR(10) NOT NULL,
			PRIMARY KEY (study_id, account_id),
			INDEX (account_id),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE,
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS failed_sign_ins (
			what CHAR(64) PRIMARY KEY,
			failures INT UNSIGNED NOT NULL,
			last_at DATETIME(3) NOT NULL)`,
		`ALTER TABLE studies ADD COLUMN IF NOT EXISTS everybody VARCHAR(10) NOT NULL DEFAULT ''`,
	}},
	// The audit trail: who did what. It outlives the studies that it tells of.
	{"0011", []string{
		`CREATE TABLE IF NOT EXISTS trail (
			study_id BIGINT UNSIGNED NOT NULL,
			number BIGINT UNSIGNED NOT NULL,
			at DATETIME(3) NOT NULL,
			actor VARCHAR(64) NOT NULL,
			name VARCHAR(120) NOT NULL,
			via VARCHAR(20) NOT NULL,
			address VARCHAR(64) NOT NULL,
			what VARCHAR(80) NOT NULL,
			what_values MEDIUMTEXT NOT NULL,
			seal CHAR(64) NOT NULL,
			PRIMARY KEY (study_id, number))`,
		// By which institution somebody signs in.
		`CREATE TABLE IF NOT EXISTS identities (
			id CHAR(64) PRIMARY KEY,
			account_id BIGINT UNSIGNED NOT NULL,
			issuer VARCHAR(500) NOT NULL,
			subject VARCHAR(255) NOT NULL,
			created_at DATETIME(3) NOT NULL,
			INDEX (account_id),
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		// By which scripts act for somebody.
		`CREATE TABLE IF NOT EXISTS tokens (
			hash CHAR(64) PRIMARY KEY,
			account_id BIGINT UNSIGNED NOT NULL,
			name VARCHAR(120) NOT NULL,
			scope VARCHAR(10) NOT NULL,
			study_id BIGINT UNSIGNED NOT NULL,
			created_at DATETIME(3) NOT NULL,
			expires_at DATETIME(3) NOT NULL,
			seen_at DATETIME(3) NULL,
			INDEX (account_id),
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		// By which others look at one thing.
		`CREATE TABLE IF NOT EXISTS links (
			hash CHAR(64) PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			shows VARCHAR(10) NOT NULL,
			made_by BIGINT UNSIGNED NOT NULL,
			created_at DATETIME(3) NOT NULL,
			expires_at DATETIME(3) NOT NULL,
			seen_at DATETIME(3) NULL,
			INDEX (study_id),
			FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)`,
		// What people write into the margin.
		"CREATE TABLE IF NOT EXISTS remarks (" +
			"id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, study_id BIGINT UNSIGNED NOT NULL, question_id BIGINT UNSIGNED NOT NULL, analysis_id BIGINT UNSIGNED NOT NULL," +
			"`to` BIGINT UNSIGNED NOT NULL, text TEXT NOT NULL, author VARCHAR(64) NOT NULL, at DATETIME(3) NOT NULL, resolved_at DATETIME(3) NULL, resolved_by VARCHAR(64) NOT NULL," +
			"INDEX (study_id), FOREIGN KEY (study_id) REFERENCES studies (id) ON DELETE CASCADE)",
		`CREATE TABLE IF NOT EXISTS passkeys (
			id VARCHAR(400) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
			account_id BIGINT UNSIGNED NOT NULL,
			name VARCHAR(120) NOT NULL,
			credential MEDIUMTEXT NOT NULL,
			created_at DATETIME(3) NOT NULL,
			seen_at DATETIME(3) NULL,
			INDEX (account_id),
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS challenges (
			hash CHAR(64) PRIMARY KEY,
			data TEXT NOT NULL,
			expires_at DATETIME(3) NOT NULL)`,
		// Groups, and sets of the shelf that are shared as studies are; those that are there already are everybody's as they were.
		`CREATE TABLE IF NOT EXISTS account_groups (
			id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
			name VARCHAR(120) NOT NULL)`,
		`CREATE TABLE IF NOT EXISTS group_members (
			group_id BIGINT UNSIGNED NOT NULL,
			account_id BIGINT UNSIGNED NOT NULL,
			PRIMARY KEY (group_id, account_id),
			INDEX (account_id),
			FOREIGN KEY (group_id) REFERENCES account_groups (id) ON DELETE CASCADE,
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS group_roles (
			thing VARCHAR(10) NOT NULL,
			thing_id BIGINT UNSIGNED NOT NULL,
			group_id BIGINT UNSIGNED NOT NULL,
			role VARCHAR(10) NOT NULL,
			PRIMARY KEY (thing, thing_id, group_id),
			FOREIGN KEY (group_id) REFERENCES account_groups (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS set_members (
			set_id BIGINT UNSIGNED NOT NULL,
			account_id BIGINT UNSIGNED NOT NULL,
			role VARCHAR(10) NOT NULL,
			PRIMARY KEY (set_id, account_id),
			INDEX (account_id),
			FOREIGN KEY (set_id) REFERENCES share_sets (id) ON DELETE CASCADE,
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`ALTER TABLE share_sets ADD COLUMN IF NOT EXISTS everybody VARCHAR(10) NOT NULL DEFAULT 'editor'`,
		`CREATE TABLE IF NOT EXISTS presence (
			tab CHAR(32) PRIMARY KEY,
			study_id BIGINT UNSIGNED NOT NULL,
			account_id BIGINT UNSIGNED NOT NULL,
			place VARCHAR(40) NOT NULL,
			editing BOOLEAN NOT NULL,
			seen_at DATETIME(3) NOT NULL,
			INDEX (study_id),
			FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS trail_heads (
			study_id BIGINT UNSIGNED PRIMARY KEY,
			number BIGINT UNSIGNED NOT NULL,
			seal CHAR(64) NOT NULL)`,
	}},
	{"0012", []string{
		// a study that is being made, which nobody sees before it is whole
		`ALTER TABLE studies ADD COLUMN IF NOT EXISTS making BOOLEAN NOT NULL DEFAULT FALSE`,
		// a file that has arrived, and belongs to no study yet
		`ALTER TABLE source_files MODIFY study_id BIGINT UNSIGNED NULL`,
		`CREATE TABLE IF NOT EXISTS arrivals (
			id CHAR(24) PRIMARY KEY,
			file_id BIGINT UNSIGNED NOT NULL,
			author VARCHAR(64) NOT NULL,
			name VARCHAR(255) NOT NULL,
			size BIGINT UNSIGNED NOT NULL,
			arrived_at DATETIME(3) NOT NULL,
			stage VARCHAR(10) NOT NULL,
			rows_done BIGINT UNSIGNED NOT NULL,
			done DOUBLE NOT NULL,
			left_ms BIGINT UNSIGNED NOT NULL,
			worker VARCHAR(64) NOT NULL,
			seen_at DATETIME(3) NOT NULL,
			job MEDIUMTEXT NOT NULL,
			study_id BIGINT UNSIGNED NULL,
			FOREIGN KEY (file_id) REFERENCES source_files (id) ON DELETE CASCADE)`,
		`CREATE TABLE IF NOT EXISTS writings (
			token VARCHAR(64) PRIMARY KEY,
			thousandths INT NOT NULL,
			seen_at DATETIME(3) NOT NULL)`,
		// how often each value of a large column occurs, counted in parts by whichever process has time
		`CREATE TABLE IF NOT EXISTS counts (
			question_id BIGINT UNSIGNED NOT NULL,
			generation INT NOT NULL,
			slots INT NOT NULL,
			part INT NOT NULL,
			first_row BIGINT UNSIGNED NOT NULL,
			row_count BIGINT UNSIGNED NOT NULL,
			all_rows BIGINT UNSIGNED NOT NULL,
			worker VARCHAR(64) NOT NULL,
			seen_at DATETIME(3) NOT NULL,
			result MEDIUMBLOB NULL,
			PRIMARY KEY (question_id, generation, slots, part),
			FOREIGN KEY (question_id) REFERENCES questions (id) ON DELETE CASCADE)`,
	}},
}

// addedBy names the column by which a statement that cannot be repeated is known to
// have been run.
var addedBy = map[string][2]string{
	"ALTER TABLE questions ADD INDEX":      {"questions", "generation"},
	"ALTER TABLE column_chunks ADD":        {"column_chunks", "generation"},
	"ALTER TABLE source_files ADD waiting": {"source_files", "waiting"},
}

func migrations() (out []*gormigrate.Migration) {
	for _, m := range migrationSteps {
		out = append(out, &gormigrate.Migration{ID: m.id, Migrate: statements(m.sql)})
	}
	return out
}

func statements(sql []string) gormigrate.MigrateFunc {
	return func(db *gorm.DB) error {
		for _, s := range sql {
			done, err := hasRun(db, s)
			if err != nil {
				return err
			}
			if done {
				continue
			}
			if err := db.Exec(s).Error; err != nil {
				return err
			}
		}
		return nil
	}
}

// gone is a table which the last statement of a migration removes; what reads it has been
// run where it is no longer there.
const gone = "FROM claims c"

func hasRun(db *gorm.DB, sql string) (bool, error) {
	if strings.HasSuffix(strings.TrimSuffix(sql, " WHERE c.subgroup_id IS NOT NULL"), gone) {
		var n int64
		err := db.Raw("SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = 'claims'").Scan(&n).Error
		return n == 0, err
	}
	for start, column := range addedBy {
		if !strings.HasPrefix(sql, start) {
			continue
		}
		var n int64
		err := db.Raw("SELECT COUNT(*) FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ? AND column_name = ?", column[0], column[1]).Scan(&n).Error
		return n > 0, err
	}
	return false, nil
}
