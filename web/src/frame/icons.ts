import {
  IconBuilding,
  IconCalendar,
  IconChartBar,
  IconClock,
  IconCoins,
  IconFile,
  IconFlag,
  IconHome,
  IconPhone,
  IconStar,
  IconTool,
  IconUsers,
} from '@tabler/icons-vue'
import type { Component } from 'vue'
import type { MenuIcon } from '@/api/types'

/** The pictures of groups in the menu. */
export const icons: Record<MenuIcon, Component> = {
  home: IconHome,
  building: IconBuilding,
  calendar: IconCalendar,
  chart: IconChartBar,
  clock: IconClock,
  file: IconFile,
  flag: IconFlag,
  money: IconCoins,
  people: IconUsers,
  phone: IconPhone,
  star: IconStar,
  tool: IconTool,
}
