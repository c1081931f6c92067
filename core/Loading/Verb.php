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

    case Remove = 'remove';

    /** The fields named get exactly these values, whatever they are; nothing else is touched. */
    case Restore = 'restore';
}
