<?php

namespace App\Models;

/** What may be done in a migration. The one table of who may is Role::rights(); docs/roles.md says it in words. */
enum Right: string
{
    /** See everything of the migration. */
    case View = 'view';

    /** Sources, target, mapping, order, rehearsals and their passes. */
    case Work = 'work';

    /** Values, codes and waivers: what the client knows best. */
    case Repair = 'repair';

    /** Begin a cutover. */
    case Cutover = 'cutover';

    /** Take away loads, extracts, connections and parameters. */
    case Delete = 'delete';

    /** End a round, accept what was loaded, and decide what holds when target and ledger differ. */
    case Accept = 'accept';

    /** Invite people, give and take roles. */
    case Invite = 'invite';

    /** Read who did what. */
    case Audit = 'audit';

    public function words(): string
    {
        return match ($this) {
            self::View => 'See everything of the migration',
            self::Work => 'Sources, target, mapping, order, rehearsals and their passes',
            self::Repair => 'Values, codes, and what is left behind',
            self::Cutover => 'Begin a cutover',
            self::Delete => 'Take away loads, extracts, connections and parameters',
            self::Accept => 'End a cutover, and decide where target and ledger differ',
            self::Invite => 'Invite people, give and take roles',
            self::Audit => 'Read who did what',
        };
    }
}
