-- The new harbour-office application's own schema: a stand-in that ships with the demo. It really refuses bad rows.
-- The comment of its tables is its marker: only a database that holds one is ever brought back to this state.

CREATE TABLE country (
    code CHAR(2) NOT NULL PRIMARY KEY,
    name VARCHAR(60) NOT NULL
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE harbour (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    code VARCHAR(8) NOT NULL UNIQUE,
    name VARCHAR(60) NOT NULL
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE tariff (
    code VARCHAR(12) NOT NULL PRIMARY KEY,
    name VARCHAR(40) NOT NULL
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE pontoon (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    code VARCHAR(12) NOT NULL UNIQUE,
    harbour INT UNSIGNED NOT NULL,
    part_of INT UNSIGNED NULL,
    length_m DECIMAL(5,1) NULL,
    CONSTRAINT pontoon_harbour FOREIGN KEY (harbour) REFERENCES harbour (id),
    CONSTRAINT pontoon_part_of FOREIGN KEY (part_of) REFERENCES pontoon (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE berth (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    harbour INT UNSIGNED NOT NULL,
    code VARCHAR(12) NOT NULL,
    length_m DECIMAL(5,2) NULL,
    metered TINYINT(1) NOT NULL DEFAULT 0,
    UNIQUE KEY berth_code (harbour, code),
    CONSTRAINT berth_harbour FOREIGN KEY (harbour) REFERENCES harbour (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE party (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    kind VARCHAR(12) NOT NULL,
    name VARCHAR(60) NOT NULL,
    email VARCHAR(120) NULL,
    phone VARCHAR(20) NULL,
    street VARCHAR(80) NULL,
    postcode VARCHAR(12) NULL,
    town VARCHAR(40) NULL,
    country CHAR(2) NOT NULL,
    bill_to INT UNSIGNED NULL,
    created_at DATETIME NOT NULL DEFAULT CURRENT_TIMESTAMP,
    CONSTRAINT party_kind CHECK (kind IN ('person', 'organisation')),
    CONSTRAINT party_country FOREIGN KEY (country) REFERENCES country (code),
    CONSTRAINT party_bill_to FOREIGN KEY (bill_to) REFERENCES party (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE vessel (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(40) NOT NULL,
    registration VARCHAR(12) NULL UNIQUE,
    owner INT UNSIGNED NOT NULL,
    type VARCHAR(12) NOT NULL,
    built DATE NULL,
    length_m DECIMAL(5,2) NULL,
    draught_m DECIMAL(4,2) NULL,
    insured_until DATE NULL,
    current_agreement INT UNSIGNED NULL,
    CONSTRAINT vessel_type CHECK (type IN ('motor', 'sail', 'fishing', 'tug', 'barge', 'rib', 'dinghy', 'survey', 'other')),
    CONSTRAINT vessel_length_m CHECK (length_m > 0 AND length_m <= 200),
    CONSTRAINT vessel_owner FOREIGN KEY (owner) REFERENCES party (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE agreement (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    number VARCHAR(12) NOT NULL UNIQUE,
    party INT UNSIGNED NOT NULL,
    vessel INT UNSIGNED NOT NULL,
    berth INT UNSIGNED NOT NULL,
    starts DATE NOT NULL,
    ends DATE NULL,
    rent DECIMAL(9,2) NOT NULL,
    CONSTRAINT agreement_ends CHECK (ends IS NULL OR ends >= starts),
    CONSTRAINT agreement_party FOREIGN KEY (party) REFERENCES party (id),
    CONSTRAINT agreement_vessel FOREIGN KEY (vessel) REFERENCES vessel (id),
    CONSTRAINT agreement_berth FOREIGN KEY (berth) REFERENCES berth (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

ALTER TABLE vessel ADD CONSTRAINT vessel_current_agreement FOREIGN KEY (current_agreement) REFERENCES agreement (id);

CREATE TABLE invoice (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    number VARCHAR(20) NOT NULL UNIQUE,
    party INT UNSIGNED NOT NULL,
    issued DATE NOT NULL,
    total DECIMAL(10,2) NOT NULL,
    text VARCHAR(80) NULL,
    CONSTRAINT invoice_party FOREIGN KEY (party) REFERENCES party (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE meter_reading (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    berth INT UNSIGNED NOT NULL,
    read_on DATE NOT NULL,
    kwh INT UNSIGNED NOT NULL,
    used INT UNSIGNED NULL,
    read_by VARCHAR(40) NULL,
    estimated TINYINT(1) NOT NULL DEFAULT 0,
    CONSTRAINT meter_reading_berth FOREIGN KEY (berth) REFERENCES berth (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE invoice_line (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    invoice INT UNSIGNED NOT NULL,
    position SMALLINT UNSIGNED NOT NULL,
    tariff VARCHAR(12) NOT NULL,
    quantity INT UNSIGNED NOT NULL,
    amount DECIMAL(10,2) NOT NULL,
    text VARCHAR(80) NULL,
    UNIQUE KEY invoice_line_position (invoice, position),
    CONSTRAINT invoice_line_invoice FOREIGN KEY (invoice) REFERENCES invoice (id),
    CONSTRAINT invoice_line_tariff FOREIGN KEY (tariff) REFERENCES tariff (code)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE payment (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    reference VARCHAR(12) NOT NULL UNIQUE,
    invoice INT UNSIGNED NOT NULL,
    party INT UNSIGNED NOT NULL,
    paid_on DATE NOT NULL,
    amount DECIMAL(10,2) NOT NULL,
    CONSTRAINT payment_invoice FOREIGN KEY (invoice) REFERENCES invoice (id),
    CONSTRAINT payment_party FOREIGN KEY (party) REFERENCES party (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE workshop_job (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    number VARCHAR(12) NOT NULL UNIQUE,
    party INT UNSIGNED NOT NULL,
    opened DATE NOT NULL,
    work VARCHAR(40) NOT NULL,
    hours DECIMAL(5,1) NULL,
    CONSTRAINT workshop_job_party FOREIGN KEY (party) REFERENCES party (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

CREATE TABLE note (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    workshop_job INT UNSIGNED NOT NULL,
    written_on DATE NOT NULL,
    author VARCHAR(40) NULL,
    text VARCHAR(200) NOT NULL,
    CONSTRAINT note_workshop_job FOREIGN KEY (workshop_job) REFERENCES workshop_job (id)
) ENGINE=InnoDB COMMENT='harbour office stand-in';

INSERT INTO tariff VALUES ('BERTH-6', 'Berth up to 6 m'), ('BERTH-8', 'Berth up to 8 m'), ('BERTH-10', 'Berth up to 10 m'), ('BERTH-12', 'Berth up to 12 m'),
    ('VISITOR', 'Visitor, a night'), ('CRANE', 'Crane, a lift'), ('WATER', 'Fresh water'), ('POWER', 'Electricity, a kWh');

INSERT INTO country VALUES ('GB', 'United Kingdom'), ('IE', 'Ireland'), ('NO', 'Norway'), ('DK', 'Denmark'), ('DE', 'Germany'),
    ('NL', 'Netherlands'), ('FR', 'France'), ('SE', 'Sweden'), ('BE', 'Belgium');

-- Typed in by early users. The first three are people who are in the old systems too.
INSERT INTO party (kind, name, email, phone, street, postcode, town, country) VALUES
    ('organisation', 'Tarn & Holm Marine', NULL, NULL, '1 Slip Road', 'OS1 0001', 'Inverlee', 'GB'),
    ('organisation', 'Skerry Boatyard', NULL, NULL, NULL, 'OS1 0002', 'Inverlee', 'GB'),
    ('person', 'Maud Ellingsen', 'maud.ellingsen@post.example', '+441514960003', '3 Slip Road', 'OS1 0003', 'Inverlee', 'GB'),
    ('person', 'Test Tester', NULL, NULL, NULL, NULL, NULL, 'GB'),
    ('organisation', 'Orrin Sound Harbours', 'office@orrinsound.example', NULL, 'Harbour House', 'OS1 9999', 'Orrin', 'GB');
