-- A database as Nimbet kept it with six migrations: a chest brought in open, sealed by the plan and moved by Ada.
SET FOREIGN_KEY_CHECKS = 0;
CREATE TABLE `_sqlx_migrations` (
  `version` bigint(20) NOT NULL,
  `description` text NOT NULL,
  `installed_on` timestamp NOT NULL DEFAULT current_timestamp(),
  `success` tinyint(1) NOT NULL,
  `checksum` blob NOT NULL,
  `execution_time` bigint(20) NOT NULL,
  PRIMARY KEY (`version`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `_sqlx_migrations` VALUES (1,'first','2026-11-28 12:15:47',1,0xB46D0DA9F9D0ACB585629E36748800ED99A4522C7D3A38D1A808C01F9D2AE9717AF7C297B3BA44816BA1B3E87F63F2E5,42854930);
INSERT INTO `_sqlx_migrations` VALUES (2,'chord','2026-11-28 12:15:47',1,0x9C974415D2681D2F94E6399D363F01262F08B8A4259F642243DC09A0E69222FA9EDB81232E514745F55C25D423D055F1,6669412);
INSERT INTO `_sqlx_migrations` VALUES (3,'step names','2026-11-28 12:15:47',1,0xDF0FD2472C2EA92BD7C559052D29841C1D7EC3CC102A67AC130E2D93DAD9EE5F6B102CA2DA2730EAC847C1FE3C9E9B04,5651569);
INSERT INTO `_sqlx_migrations` VALUES (4,'lines','2026-11-28 12:15:47',1,0x17FD60289722F75289B1B67640FB833442735B3755518D5A01A9F50A994F2FFD162A3EFB47F73D1C22319B9ECB64F10B,36513583);
INSERT INTO `_sqlx_migrations` VALUES (5,'kept at','2026-11-28 12:15:47',1,0x6CB9C88BBAEFB080F6A2BAB295BA9B33AD9534087C1A824895B87EE0D3B5844E6E4D4C45F45D9A0BF4646ADF44F603EB,10884749);
INSERT INTO `_sqlx_migrations` VALUES (6,'setup','2026-11-28 12:15:47',1,0x24F185F9F8EE12E439762525D7C2264C63587C7C10667E483F30786DCD8295C6AE347E849C27282C26194E8A10AE81D8,14245756);
CREATE TABLE `blob_chunks` (
  `hash` binary(32) NOT NULL,
  `chunk` int(11) NOT NULL,
  `data` mediumblob NOT NULL,
  PRIMARY KEY (`hash`,`chunk`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `blob_chunks` VALUES (0x0EB2C6F45855D2BA115986350386D0257EB174132A34E421C61FDD54EECE8146,0,0x28B52FFD2074050200D2840B0EB0A5399C1C60BB91D0D63A9E382313774E7761313D77757896BB5ECBBC93679A7735A52665C639C76B6063040106002015B4F0130F4880B3E1D2CA12);
INSERT INTO `blob_chunks` VALUES (0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD,0,0x28B52FFD609000350400A4034E4D4231080000000C003E40003424408041400080418041804103000000020200000001050402000000060602070703000404040600050000002520F002A9AA031B0406041038818F7CEF489CF2FD9363ED97D94059A08107993D645996EF3CB33BBF330B06FABBBD05C77AEA2DA6602A38EEB0112E00F0059271A1188195573B988204);
INSERT INTO `blob_chunks` VALUES (0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9,0,0x28B52FFD6090001D040054034E4D4231080000000C00344000244014344014344024401440030000000201050402000000060602070703000404040600050000002720100321E301BB0486041028818FF95E489CE6FB9367ED97D9B05900034F337B926549BE5F666F7E278B07FA8E5AF8F876022F5D323C1063031F2863906D73F28500BEE012D71B7C235990);
INSERT INTO `blob_chunks` VALUES (0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50,0,0x28B52FFD6070000D040054034E4D4231080000000A003440002440143440143440244014400300000002010504020000000606020707030004040102030400000022004B19D99A6F099973C47E66365416B88147337B22CB12F2FDCCEC25BF9B59C040CB1D68E1826F6502B874A70CF000C0180C0C06828C01D9B672025E0000C00B80C49D6F00DF480224);
CREATE TABLE `blobs` (
  `hash` binary(32) NOT NULL,
  `bytes` bigint(20) NOT NULL,
  `chunks` int(11) NOT NULL,
  `kept_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  PRIMARY KEY (`hash`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `blobs` VALUES (0x0EB2C6F45855D2BA115986350386D0257EB174132A34E421C61FDD54EECE8146,116,1,'2026-11-28 12:15:48.220');
INSERT INTO `blobs` VALUES (0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD,400,1,'2026-11-28 12:15:49.173');
INSERT INTO `blobs` VALUES (0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9,400,1,'2026-11-28 12:15:48.751');
INSERT INTO `blobs` VALUES (0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50,368,1,'2026-11-28 12:15:48.246');
CREATE TABLE `examinations` (
  `cache_key` binary(32) NOT NULL,
  `body` longblob NOT NULL,
  PRIMARY KEY (`cache_key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `examinations` VALUES (0x09BAC7164EDFF1A94BAF3CDD32D1194F35CE249394C86B16FF9D06DA35DBA667,0x28B52FFD603706251900D6EB7A224089B80100AB364609B6D20582FEEC93D2B823DCBB9F6AC02B30C9D09F338661CE046D006E0071000A237E207F8A58EA88CF773B3CAC19D604FCBAC952D85A3BA0AED2B0A3BB2C85F1DD45BA2A69CFB3BFA8CB582C8D90BBE93214A22485C5D24E70A8AB10A594A5DC8F755B933E57BA87A4E60A18F7BA0A41A910B990BF4C72BD83DC4F57BF23A74B3B7284FA580AFB498F3BFA08DD12B2413EEFCFB9FAB52321FBCE27C16CC70094B8D1D5C8CDC9652FB9C799074DC8055AF4A8AB90A071AD11FD7541435D65EF04BA9A08002C4568027D2C96C2E79DBD3BBA937AFDFD74E4C65B24315D1599F7E71C41C844C931CD1CBEEB2AC6D1482E3EEF0EC88D19B8D7E8AA15906312C79D2684087527C6A41EF7B326683CD207D3208D1B3E3C728940BE2E7001BAB475839B3E16CE1A9A1407C5A2382496456130A8254112C9193F2579F1BBE9865BC4BA5F7623A3FBE726D9736E6EBA4FC88E8C9E2B763B607242048E30E3E388715C571187127ABAD624E773B9D109D3D49AF44BD9E3EBF7E7DDF1781BE84E0AE987351361C7E70A869D0A0A912C7571590AB9E7BC37740F8FFEE79A45735133DD868D1D86821494835A14452D8604225112C4F0BA01498CC5261008738355C8738B18C771BA2DBDA8BB28968442714824140984421890426169FC8E07AD0B3163624C13EB8083A8611D5348991119093241D3743002429032953D1280E63C67A93343A3A02005A5F5DA3B14CADCA8ED365BAB286FA36E142DBCE3E1781716A8DE6C81D5E6B65B1B2371BAF01FE96F3A0C2C26E72D7436DC115C1B0628CD0BCFCC82628C57367A82A515DEA94D5A5014118CE35C5F2650C1E89A827F5DC517F089E3FC3078E5C33A5F9F2282B9B92911AA2A758B70FC12832D51658BBF322E99D19F06683F8F1B5DF41630C002CB801AB44906BCF5047E4F455C06057D6794EEC43FAE27CD74C2E367D7BDC17B63BCFCBFFEE21ECD2C57D58C07AAF98A5F8ECDAA30FC11EA567A0192E69B7C9347260D3733C520284E4591563841EDD1EDB8A64E4C08C325A3CD93BB53531D5E0FFFF0440125098010138B166F5020BEB7568CC8CE925428B6F41D174F687918CDFEE8797E28BDD8D1E8AF19CE2A);
INSERT INTO `examinations` VALUES (0x9B5CA33433E0919169B437DE9EC5E238F66E2F610D341F92DEE8C666A44D5E00,0x28B52FFD602302E50C00A61643215067AC0330383AF60AB5044B4112425828405555072D0C31029B883E9399995003370038003B008BBA8C6BDDF5800C241D8BFA1A7054D4D7C275450642285D9D9BADBE89E91E01F3BA5F5C0BAF67EBD6C6ABAF5C32FE403D2E9C8D113F08CD57C438CD7CB2353B71B986291E6C9ED5120C0FA0EEC8D6EB5063CBB01D587D4DEAD1B975E2356916E26A508FB2F93DD723B9D68BA144844AC1A0188E14601C87BAEC95050B572031FB07CB61518FAD993523AE0B6420EACE2D0583E0F6B6657235EC9EC9AE4832CD90D7132323E76396710C8BC5214952411584A086C4485261B184DBDC9A9DC6AB58161BDD42A85FCEE7DEB3ECBA134A75B6F1B9E67A408C83A0C8401294BDCDF5085094423A20300242A021EC01A8021E5DA0968B4D49106A5B8271BC80F1035287205281C78C0094A380427B01F7C88CE6CD15D19A6E66B92373EC6E8CE5B721A0B903A0D880BB1D051E6E0128109A054D21A3C3147B6F06B773ED1FBBD76E5F2C0CE914F07104858922408A8DC1773F9A3506A0219CE146BADD68F2088F622B3F5C0B6A4C45DBDD72C05147046071860C);
INSERT INTO `examinations` VALUES (0xBD50C507C11A65AA8E8F1F8026D778534755D4AB978B02DD6A772AA936563DAC,0x28B52FFD602002D50C00A61643215067AC03706C62EC956E0996822484B0E0415555072D0C31862B083AC6CC4CAF01370038003B008BBA8C6BDD954106928E457D0F382AEA6BE1BA22032194AECECD56DFC374AFA079DD2FAE85D7B3756BE3D5572E19AF508F0B6763C315017C45CDE3CC275BF313977358E24107B1DA81E101D41FD97A1D6A6C1BB604ABAF493D3AB74FBC26CE325C0BEA51363FC4F548AEF56228AF4C848252389280711CEAB2571A2CDC81C3EC2B1666518FAD99351BAE0B6420EACEAD4483E0F6B6657239EC10935D916C9A212F448C8D9CAF59C6B1038B05932489A00A12A085C4481261B184DBDC9A9FC69B58161BDD32A85FCEE71E62D9752794EA6CE373CE95418C43918124287B9DEB21A02804253920300242A021EC01A8021D5DA0968B4D49106A5A826D0C42F1035087E05181C58C00949B80027B01F3C86CE6CD0DD17A6E66B7231B98B818CB6D4320730740B101773B0A3CDC025020340B9A42068729F4DE0C6EE7DA3F76AFDDBE5818D229E0E3080A134580141B83EF7E346B0C404336C38D74BBD1E4111C35F46650632ADAEE96038E3A22008B3364);
CREATE TABLE `jobs` (
  `id` binary(16) NOT NULL,
  `name` varchar(200) NOT NULL,
  `revision` bigint(20) NOT NULL DEFAULT 1,
  `next_number` int(11) NOT NULL DEFAULT 1,
  `created_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  `version` int(11) NOT NULL DEFAULT 0,
  `next_edition` int(11) NOT NULL DEFAULT 1,
  `setup` longtext NOT NULL DEFAULT '{}',
  `setup_revision` bigint(20) NOT NULL DEFAULT 1,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `jobs` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,'Harbour chest',4,4,'2026-11-28 12:15:48.172',3,4,'{}',1);
CREATE TABLE `ledger_lines` (
  `job_id` binary(16) NOT NULL,
  `version` int(11) NOT NULL,
  `before_it` int(11) DEFAULT NULL,
  `editions` longtext NOT NULL,
  `cursor_at` int(11) NOT NULL,
  `what` varchar(300) NOT NULL,
  `made_by` varchar(100) DEFAULT NULL,
  `made_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  PRIMARY KEY (`job_id`,`version`),
  CONSTRAINT `ledger_lines_ibfk_1` FOREIGN KEY (`job_id`) REFERENCES `jobs` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `ledger_lines` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,0,NULL,'[]',0,'the beginning',NULL,'2026-11-28 12:15:48.174');
INSERT INTO `ledger_lines` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,1,0,'[1]',1,'Bring in Open chest.off',NULL,'2026-11-28 12:15:48.260');
INSERT INTO `ledger_lines` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,2,1,'[1,2]',2,'Seal plan','Ada','2026-11-28 12:15:48.760');
INSERT INTO `ledger_lines` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,3,2,'[1,2,3]',3,'Place','Ada','2026-11-28 12:15:49.184');
CREATE TABLE `releases` (
  `id` binary(16) NOT NULL,
  `job_id` binary(16) NOT NULL,
  `part` int(11) NOT NULL,
  `mesh` binary(32) NOT NULL,
  `sheet` longtext NOT NULL,
  `file` binary(32) NOT NULL,
  `created_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  PRIMARY KEY (`id`),
  KEY `job_id` (`job_id`,`created_at`),
  CONSTRAINT `releases_ibfk_1` FOREIGN KEY (`job_id`) REFERENCES `jobs` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
CREATE TABLE `results` (
  `cache_key` binary(32) NOT NULL,
  `mesh` binary(32) NOT NULL,
  `report` longtext NOT NULL,
  PRIMARY KEY (`cache_key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `results` VALUES (0x8688803856C5D659400D7032363EB6C7D52D398DCA5BAB03C587C9E5A9928FAA,0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9,'{\"done\":[\"Cover all rims flat: covered R1 with 2 triangles\"],\"left\":[],\"largest_move\":0.0,\"before\":{\"state\":\"open\",\"reason\":\"open: 1 rim, 60 mm\",\"no_volume\":\"no volume: open: 1 rim, 60 mm\",\"volume\":null,\"area\":500.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":10,\"points\":8,\"faces\":5,\"shells\":1,\"naked_edges\":4,\"naked_length\":60.0,\"rims\":1,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":2,\"triangles_removed\":0,\"away\":5.0,\"back\":0.0},\"plan\":[{\"stage\":\"cover_flat\",\"title\":\"Cover all rims flat\",\"done\":[\"covered R1 with 2 triangles\"],\"left_out\":null,\"after\":\"sealed\"}],\"harm\":{\"distance\":0.0229128784747792,\"lost\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"swallowed\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"invented\":{\"area\":200.0,\"share\":0.2857142857142857,\"places\":[{\"centre\":[10.0,5.0,5.0],\"radius\":11.180339887498949,\"area\":200.0}]}},\"seconds\":0.370039738}');
INSERT INTO `results` VALUES (0x97384C01C5EA489E8B211401F1493CE82EE88AA082F23E37A5AC8FEC3B90D9C0,0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD,'{\"done\":[\"moved by 30 mm\"],\"left\":[],\"largest_move\":30.0,\"before\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,30.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":12,\"triangles_removed\":12,\"away\":30.0,\"back\":30.0},\"seconds\":0.339454677}');
CREATE TABLE `steps` (
  `job_id` binary(16) NOT NULL,
  `number` int(11) NOT NULL,
  `part` int(11) NOT NULL,
  `action` longtext NOT NULL,
  `mesh` binary(32) NOT NULL,
  `report` longtext NOT NULL,
  `name` varchar(200) DEFAULT NULL,
  `note` text DEFAULT NULL,
  `edition` int(11) NOT NULL DEFAULT 0,
  `state` longtext DEFAULT NULL,
  `made_by` varchar(100) DEFAULT NULL,
  `made_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  PRIMARY KEY (`job_id`,`edition`),
  KEY `job_id_2` (`job_id`,`number`),
  CONSTRAINT `steps_ibfk_1` FOREIGN KEY (`job_id`) REFERENCES `jobs` (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `steps` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,1,1,'{\"kind\":\"bring_in\",\"file\":\"Open chest.off\",\"source\":\"0eb2c6f45855d2ba115986350386d0257eb174132a34e421c61fdd54eece8146\",\"unit\":\"millimetre\"}',0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50,'{\"done\":[\"read as OFF in mm\"],\"left\":[],\"largest_move\":0.0,\"before\":null,\"after\":{\"state\":\"open\",\"reason\":\"open: 1 rim, 60 mm\",\"no_volume\":\"no volume: open: 1 rim, 60 mm\",\"volume\":null,\"area\":500.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":10,\"points\":8,\"faces\":5,\"shells\":1,\"naked_edges\":4,\"naked_length\":60.0,\"rims\":1,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0},\"change\":null}',NULL,NULL,1,NULL,NULL,'2026-11-28 12:15:48.258');
INSERT INTO `steps` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,2,1,'{\"kind\":\"seal.plan\"}',0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9,'{\"done\":[\"Cover all rims flat: covered R1 with 2 triangles\"],\"left\":[],\"largest_move\":0.0,\"before\":{\"state\":\"open\",\"reason\":\"open: 1 rim, 60 mm\",\"no_volume\":\"no volume: open: 1 rim, 60 mm\",\"volume\":null,\"area\":500.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":10,\"points\":8,\"faces\":5,\"shells\":1,\"naked_edges\":4,\"naked_length\":60.0,\"rims\":1,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":2,\"triangles_removed\":0,\"away\":5.0,\"back\":0.0},\"plan\":[{\"stage\":\"cover_flat\",\"title\":\"Cover all rims flat\",\"done\":[\"covered R1 with 2 triangles\"],\"left_out\":null,\"after\":\"sealed\"}],\"harm\":{\"distance\":0.0229128784747792,\"lost\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"swallowed\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"invented\":{\"area\":200.0,\"share\":0.2857142857142857,\"places\":[{\"centre\":[10.0,5.0,5.0],\"radius\":11.180339887498949,\"area\":200.0}]}},\"seconds\":0.370039738}',NULL,NULL,2,NULL,'Ada','2026-11-28 12:15:48.758');
INSERT INTO `steps` VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5,3,1,'{\"kind\":\"shape.place\",\"by\":[0.0,0.0,30.0]}',0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD,'{\"done\":[\"moved by 30 mm\"],\"left\":[],\"largest_move\":30.0,\"before\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,30.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":12,\"triangles_removed\":12,\"away\":30.0,\"back\":30.0},\"seconds\":0.339454677}',NULL,NULL,3,NULL,'Ada','2026-11-28 12:15:49.182');
CREATE TABLE `tasks` (
  `id` bigint(20) NOT NULL AUTO_INCREMENT,
  `job_id` binary(16) NOT NULL,
  `request` longtext NOT NULL,
  `state` enum('queued','running','done','failed','cancelled') NOT NULL DEFAULT 'queued',
  `worker` binary(16) DEFAULT NULL,
  `lease_until` datetime(3) DEFAULT NULL,
  `attempts` int(11) NOT NULL DEFAULT 0,
  `cancel` tinyint(1) NOT NULL DEFAULT 0,
  `fraction` double NOT NULL DEFAULT 0,
  `doing` varchar(200) NOT NULL DEFAULT 'waiting',
  `result` longtext DEFAULT NULL,
  `problem` longtext DEFAULT NULL,
  `created_at` datetime(3) NOT NULL DEFAULT utc_timestamp(3),
  PRIMARY KEY (`id`),
  KEY `state` (`state`,`id`),
  KEY `job_id` (`job_id`),
  CONSTRAINT `tasks_ibfk_1` FOREIGN KEY (`job_id`) REFERENCES `jobs` (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
INSERT INTO `tasks` VALUES (1,0x01A2221541CB72AC97D4A03A0C9A15F5,'{\"task\":\"bring_in\",\"what\":{\"kind\":\"bring_in\",\"file\":\"Open chest.off\",\"source\":\"0eb2c6f45855d2ba115986350386d0257eb174132a34e421c61fdd54eece8146\",\"unit\":\"millimetre\"},\"recipe\":null,\"who\":null}','done',0xE10092783F44458BB9CE5C18DAA4F445,NULL,1,0,1,'starting','{\"revision\":2,\"step\":1}',NULL,'2026-11-28 12:15:48.222');
INSERT INTO `tasks` VALUES (2,0x01A2221541CB72AC97D4A03A0C9A15F5,'{\"task\":\"apply\",\"revision\":2,\"part\":1,\"action\":{\"kind\":\"seal.plan\"},\"who\":\"Ada\"}','done',0x800D11459E0049E3B9B3CE9C5B632C1C,NULL,1,0,1,'measuring the wall','{\"revision\":3,\"step\":2}',NULL,'2026-11-28 12:15:48.360');
INSERT INTO `tasks` VALUES (3,0x01A2221541CB72AC97D4A03A0C9A15F5,'{\"task\":\"apply\",\"revision\":3,\"part\":1,\"action\":{\"kind\":\"shape.place\",\"by\":[0.0,0.0,30.0]},\"who\":\"Ada\"}','done',0xE10092783F44458BB9CE5C18DAA4F445,NULL,1,0,1,'measuring the wall','{\"revision\":4,\"step\":3}',NULL,'2026-11-28 12:15:48.812');
SET FOREIGN_KEY_CHECKS = 1;
