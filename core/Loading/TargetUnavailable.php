<?php

namespace Baggage\Core\Loading;

/** The target does not answer; the pass stops cleanly and can be resumed. */
final class TargetUnavailable extends \RuntimeException
{
}
