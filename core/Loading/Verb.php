<?php

namespace Baggage\Core\Loading;

/** What a target is to do with a record. */
enum Verb: string
{
    case Create = 'create';
    case Update = 'update';
    case Remove = 'remove';
}
