<?php

namespace Baggage\Core\Loading;

/** What a target is to do with a record. */
enum Verb: string
{
    case Create = 'create';

    /** A value that is null leaves what the record has: early users may have typed it. */
    case Update = 'update';

    /** The record is as if it had been created with these values. */
    case Replace = 'replace';

    /** A record of ours: the fields named get exactly these values, and nothing else is touched. */
    case Change = 'change';

    case Remove = 'remove';

    /** As remove, and it is told what the record was. */
    case Withdraw = 'withdraw';

    /** A record that was withdrawn is there again as it was, under the key it had. */
    case Revive = 'revive';

    /** The same of a record that gets back what it had, whatever that is. */
    case Restore = 'restore';
}
