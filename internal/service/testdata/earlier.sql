CREATE TABLE `migrations` (
  `id` varchar(64) NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO migrations VALUES ('0001');
INSERT INTO migrations VALUES ('0002');
INSERT INTO migrations VALUES ('0003');
INSERT INTO migrations VALUES ('0004');
INSERT INTO migrations VALUES ('0005');
CREATE TABLE `studies` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `name` varchar(200) NOT NULL,
  `units` varchar(80) NOT NULL,
  `decimals` tinyint(3) unsigned NOT NULL,
  `row_count` bigint(20) unsigned NOT NULL,
  `created_at` datetime(3) NOT NULL,
  `updated_at` datetime(3) NOT NULL,
  `deleted_at` datetime(3) DEFAULT NULL,
  `version` int(10) unsigned NOT NULL,
  `count_question_id` bigint(20) unsigned DEFAULT NULL,
  `last_claim` int(10) unsigned NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO studies VALUES ('1','Fernmouth','respondents','1','100','2026-11-26 09:53:33.797','2026-11-26 09:53:33.909',NULL,'1',NULL,'3');
CREATE TABLE `source_files` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `name` varchar(255) NOT NULL,
  `size` bigint(20) unsigned NOT NULL,
  `sha256` char(64) NOT NULL,
  `settings` text NOT NULL,
  `arrived_at` datetime(3) NOT NULL,
  `arrival` mediumtext NOT NULL DEFAULT '{}',
  `edit_id` bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (`id`),
  KEY `study_id` (`study_id`),
  CONSTRAINT `source_files_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO source_files VALUES ('1','1','answers.csv','1378','','{"Format":"delimited","Encoding":"utf-8","Delimiter":",","Part":"","HeaderRow":1,"PadShort":false,"FixNames":false,"HeaderSaid":true,"OneLine":false,"BlankIsZero":false,"Shape":"rows","CountColumn":"","Second":"","UpTo":"","OpenFrom":null,"OpenTo":null}','2026-11-26 09:53:33.798','{"names":["ward","tenure"],"first":[["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"],["Harbour","owns"]],"padded":0,"left":null}',NULL);
CREATE TABLE `source_chunks` (
  `source_file_id` bigint(20) unsigned NOT NULL,
  `seq` int(10) unsigned NOT NULL,
  `checksum` int(10) unsigned NOT NULL,
  `data` mediumblob NOT NULL,
  PRIMARY KEY (`source_file_id`,`seq`),
  CONSTRAINT `source_chunks_ibfk_1` FOREIGN KEY (`source_file_id`) REFERENCES `source_files` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO source_chunks VALUES ('1','0','1835152877',X'e20a5c776172642c74656e7572650a486172626f75722c6f776e73110d190072012c46656e736964652c72656e74110e19008c001c53616c74696e67732da5110f190006001820696e67732c0a');
CREATE TABLE `questions` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `position` int(10) unsigned NOT NULL,
  `name` varchar(255) NOT NULL,
  `wording` text NOT NULL,
  `kind` varchar(20) NOT NULL,
  `kind_reason` varchar(40) NOT NULL,
  `version` int(10) unsigned NOT NULL,
  `note` text NOT NULL DEFAULT '',
  `section` varchar(200) NOT NULL DEFAULT '',
  `base` mediumtext DEFAULT NULL,
  `derivation` mediumtext DEFAULT NULL,
  `list_id` bigint(20) unsigned DEFAULT NULL,
  `generation` int(10) unsigned NOT NULL DEFAULT 1,
  `deleted` tinyint(1) NOT NULL DEFAULT 0,
  `last_generation` int(10) unsigned NOT NULL DEFAULT 1,
  `short` varchar(60) NOT NULL DEFAULT '',
  PRIMARY KEY (`id`),
  KEY `study_id` (`study_id`),
  KEY `study_id_2` (`study_id`,`position`),
  CONSTRAINT `questions_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO questions VALUES ('1','1','0','ward','Which ward?','single','few_words','3','','',NULL,NULL,NULL,'1','0','1','');
INSERT INTO questions VALUES ('2','1','1','tenure','tenure','single','few_words','3','','',NULL,NULL,NULL,'1','0','1','');
CREATE TABLE `answers` (
  `question_id` bigint(20) unsigned NOT NULL,
  `slot` smallint(5) unsigned NOT NULL,
  `position` int(10) unsigned NOT NULL,
  `code` mediumtext NOT NULL,
  `label` mediumtext NOT NULL,
  `missing` varchar(200) NOT NULL,
  `same_as` smallint(5) unsigned DEFAULT NULL,
  `score` double DEFAULT NULL,
  `lower_limit` double DEFAULT NULL,
  `upper_limit` double DEFAULT NULL,
  PRIMARY KEY (`question_id`,`slot`),
  CONSTRAINT `answers_ibfk_1` FOREIGN KEY (`question_id`) REFERENCES `questions` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO answers VALUES ('1','0','4','','No answer','no answer',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('1','1','1','Harbour','Harbour','',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('1','2','0','Fenside','Fenside','',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('1','3','3','Saltings','Saltings','',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('1','4','2','Salt ings','Salt ings','','3',NULL,NULL,NULL);
INSERT INTO answers VALUES ('2','0','2','','No answer','no answer',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('2','1','0','owns','owns','',NULL,NULL,NULL,NULL);
INSERT INTO answers VALUES ('2','2','1','rents','rents','',NULL,NULL,NULL,NULL);
CREATE TABLE `column_chunks` (
  `question_id` bigint(20) unsigned NOT NULL,
  `generation` int(10) unsigned NOT NULL DEFAULT 1,
  `seq` int(10) unsigned NOT NULL,
  `encoding` tinyint(3) unsigned NOT NULL,
  `row_count` int(10) unsigned NOT NULL,
  `checksum` int(10) unsigned NOT NULL,
  `data` mediumblob NOT NULL,
  PRIMARY KEY (`question_id`,`generation`,`seq`),
  CONSTRAINT `column_chunks_ibfk_1` FOREIGN KEY (`question_id`) REFERENCES `questions` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO column_chunks VALUES ('1','1','0','1','100','1010776744',X'28b52ffd04006d000020010203040350010278dc120570e0dfb3');
INSERT INTO column_chunks VALUES ('2','1','0','1','100','3503763122',X'28b52ffd04005d00001801020002540102252101131374fa');
CREATE TABLE `claims` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `question_id` bigint(20) unsigned NOT NULL,
  `number` int(10) unsigned NOT NULL,
  `role` varchar(20) NOT NULL,
  `level` double NOT NULL,
  `mode` varchar(20) NOT NULL,
  `rescale` tinyint(1) NOT NULL,
  `reference_kind` varchar(20) NOT NULL,
  `source` varchar(200) NOT NULL,
  `source_date` varchar(40) NOT NULL,
  `stated_at` datetime(3) NOT NULL,
  `first_run_at` datetime(3) DEFAULT NULL,
  `deleted_at` datetime(3) DEFAULT NULL,
  `version` int(10) unsigned NOT NULL,
  `subgroup_id` bigint(20) unsigned DEFAULT NULL,
  `first_inputs` longtext DEFAULT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `study_id` (`study_id`,`number`),
  KEY `question_id` (`question_id`),
  CONSTRAINT `claims_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE,
  CONSTRAINT `claims_ibfk_2` FOREIGN KEY (`question_id`) REFERENCES `questions` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO claims VALUES ('1','1','1','1','null','0.1','percents','0','register','the borough register','January 2026','2026-11-26 09:53:33.848','2026-11-26 09:53:33.852',NULL,'2',NULL,'{"observed":{"Fenside":30,"Harbour":50,"Saltings":20},"missing":0,"claim":"[\\"null\\",0.05,\\"percents\\",false,null,{\\"Fenside\\":\\"40\\",\\"Harbour\\":\\"40\\",\\"Saltings\\":\\"20\\"}]","coding":{"":{"missing":"no answer"},"Salt ings":{"sameAs":"Saltings"}},"subgroup":"","counts":""}');
INSERT INTO claims VALUES ('2','1','1','2','alternative','0.05','equal','0','theory','','','2026-11-26 09:53:33.874','2026-11-26 09:53:33.881',NULL,'1','1','{"observed":{"Fenside":30,"Harbour":0,"Saltings":19},"missing":0,"claim":"[\\"alternative\\",0.05,\\"equal\\",false,1,{}]","coding":{"":{"missing":"no answer"},"Salt ings":{"sameAs":"Saltings"}},"subgroup":"[{\\"op\\":\\"any_of\\",\\"question\\":2,\\"answers\\":[2]},{\\"2\\":[1,{\\"0\\":{\\"missing\\":\\"no answer\\"},\\"1\\":{},\\"2\\":{}}]}]","counts":""}');
INSERT INTO claims VALUES ('3','1','2','3','null','0.05','equal','0','theory','','','2026-11-26 09:53:33.884',NULL,'2026-11-26 09:53:33.885','1',NULL,NULL);
CREATE TABLE `claim_shares` (
  `claim_id` bigint(20) unsigned NOT NULL,
  `slot` smallint(5) unsigned NOT NULL,
  `figure` varchar(40) NOT NULL,
  `code` mediumtext DEFAULT NULL,
  PRIMARY KEY (`claim_id`,`slot`),
  CONSTRAINT `claim_shares_ibfk_1` FOREIGN KEY (`claim_id`) REFERENCES `claims` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO claim_shares VALUES ('1','1','40','Harbour');
INSERT INTO claim_shares VALUES ('1','2','40','Fenside');
INSERT INTO claim_shares VALUES ('1','3','20','Saltings');
CREATE TABLE `changes` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `subject` varchar(20) NOT NULL,
  `subject_id` bigint(20) unsigned NOT NULL,
  `field` varchar(40) NOT NULL,
  `old_value` mediumtext NOT NULL,
  `new_value` mediumtext NOT NULL,
  `after_run` tinyint(1) NOT NULL,
  `at` datetime(3) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `study_id` (`study_id`,`subject`,`subject_id`),
  CONSTRAINT `changes_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO changes VALUES ('1','1','question','1','wording','"ward"','"Which ward?"','0','2026-11-26 09:53:33.820');
INSERT INTO changes VALUES ('2','1','question','1','counting','{"Generation":1,"Answers":{"0":{"missing":"no answer"},"1":{},"2":{},"3":{},"4":{}}}','{"Generation":1,"Answers":{"0":{"missing":"no answer"},"1":{},"2":{},"3":{},"4":{"sameAs":3}}}','0','2026-11-26 09:53:33.837');
INSERT INTO changes VALUES ('3','1','claim','1','level','0.05','0.1','1','2026-11-26 09:53:33.856');
CREATE TABLE `parts` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `kind` varchar(20) NOT NULL,
  `name` varchar(200) NOT NULL,
  `definition` mediumtext NOT NULL,
  `deleted` tinyint(1) NOT NULL,
  `version` int(10) unsigned NOT NULL,
  PRIMARY KEY (`id`),
  KEY `study_id` (`study_id`,`kind`),
  CONSTRAINT `parts_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO parts VALUES ('1','1','subgroup','Renters','{"op":"any_of","question":2,"answers":[2]}','0','1');
CREATE TABLE `edits` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `study_id` bigint(20) unsigned NOT NULL,
  `title` varchar(60) NOT NULL,
  `title_values` text NOT NULL,
  `state` varchar(10) NOT NULL,
  `at` datetime(3) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `study_id` (`study_id`,`state`),
  CONSTRAINT `edits_ibfk_1` FOREIGN KEY (`study_id`) REFERENCES `studies` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=5 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO edits VALUES ('1','1','question','{"name":"ward"}','done','2026-11-26 09:53:33.819');
INSERT INTO edits VALUES ('2','1','bulk','{"n":"1"}','done','2026-11-26 09:53:33.836');
INSERT INTO edits VALUES ('3','1','subgroup','{"name":"Renters"}','done','2026-11-26 09:53:33.870');
INSERT INTO edits VALUES ('4','1','question','{"name":"tenure"}','undone','2026-11-26 09:53:33.895');
CREATE TABLE `edit_snapshots` (
  `edit_id` bigint(20) unsigned NOT NULL,
  `subject` varchar(20) NOT NULL,
  `subject_id` bigint(20) unsigned NOT NULL,
  `before_edit` longtext NOT NULL,
  `after_edit` longtext NOT NULL,
  `generation_before` int(10) unsigned NOT NULL,
  `generation_after` int(10) unsigned NOT NULL,
  PRIMARY KEY (`edit_id`,`subject`,`subject_id`),
  KEY `subject` (`subject`,`subject_id`),
  CONSTRAINT `edit_snapshots_ibfk_1` FOREIGN KEY (`edit_id`) REFERENCES `edits` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
INSERT INTO edit_snapshots VALUES ('1','question','1','{"Name":"ward","Wording":"ward","Short":"","Note":"","Section":"","Kind":"single","Answers":[{"Slot":2,"Code":"Fenside","Label":"Fenside","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":1,"Code":"Harbour","Label":"Harbour","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":4,"Code":"Salt ings","Label":"Salt ings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":3,"Code":"Saltings","Label":"Saltings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":1,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','{"Name":"ward","Wording":"Which ward?","Short":"","Note":"","Section":"","Kind":"single","Answers":[{"Slot":2,"Code":"Fenside","Label":"Fenside","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":1,"Code":"Harbour","Label":"Harbour","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":4,"Code":"Salt ings","Label":"Salt ings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":3,"Code":"Saltings","Label":"Saltings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":1,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','1','1');
INSERT INTO edit_snapshots VALUES ('2','question','1','{"Name":"ward","Wording":"Which ward?","Short":"","Note":"","Section":"","Kind":"single","Answers":[{"Slot":2,"Code":"Fenside","Label":"Fenside","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":1,"Code":"Harbour","Label":"Harbour","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":4,"Code":"Salt ings","Label":"Salt ings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":3,"Code":"Saltings","Label":"Saltings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":1,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','{"Name":"ward","Wording":"Which ward?","Short":"","Note":"","Section":"","Kind":"single","Answers":[{"Slot":2,"Code":"Fenside","Label":"Fenside","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":1,"Code":"Harbour","Label":"Harbour","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":4,"Code":"Salt ings","Label":"Salt ings","Missing":"","SameAs":3,"Score":null,"From":null,"To":null},{"Slot":3,"Code":"Saltings","Label":"Saltings","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":1,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','1','1');
INSERT INTO edit_snapshots VALUES ('3','part','1','','{"ID":1,"StudyID":1,"Kind":"subgroup","Name":"Renters","Definition":"{\\"op\\":\\"any_of\\",\\"question\\":2,\\"answers\\":[2]}","Deleted":false,"Version":0}','0','0');
INSERT INTO edit_snapshots VALUES ('4','question','2','{"Name":"tenure","Wording":"tenure","Short":"","Note":"","Section":"","Kind":"single","Answers":[{"Slot":1,"Code":"owns","Label":"owns","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":2,"Code":"rents","Label":"rents","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":2,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','{"Name":"tenure","Wording":"tenure","Short":"tenure","Note":"","Section":"","Kind":"single","Answers":[{"Slot":1,"Code":"owns","Label":"owns","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":2,"Code":"rents","Label":"rents","Missing":"","SameAs":null,"Score":null,"From":null,"To":null},{"Slot":0,"Code":"","Label":"No answer","Missing":"no answer","SameAs":null,"Score":null,"From":null,"To":null}],"Base":null,"Derivation":null,"ID":2,"StudyID":1,"Position":0,"Number":0,"KindReason":"few_words","ListID":null,"Generation":1,"Deleted":false,"Version":0}','1','1');
